/* What is read off the curve: y at typed x, x at typed y, one or a pasted list at a time. */
import { Pick } from "../../../ui/Choice";
import { DraftField, IntervalPick, Row, useStep } from "../../working/fields";

/** Numbers typed or pasted, apart by spaces, semicolons, tabs or new lines; null where one is none. */
export function numbersOf(text: string): number[] | null {
  const parts = text
    .replace(/−/g, "-")
    .split(/[\s;]+|,(?=\s)/)
    .filter(Boolean);
  const decimal = parts.some((part) => part.includes("."))
    ? (part: string) => part
    : (part: string) => part.replace(",", ".");
  const values = parts.map((part) => Number(decimal(part)));
  return values.every(Number.isFinite) && values.length <= 2000 ? values : null;
}

export function PredictPanel() {
  const { step, set } = useStep("predict");
  return (
    <>
      {(["x", "y"] as const).map((axis) => {
        const key = axis === "x" ? "at_x" : "at_y";
        const values = step[key] ?? [];
        return (
          <Row key={axis} label={`${axis === "x" ? "y" : "x"} at ${axis} =`}>
            <DraftField
              key={values.join()}
              label={`Read ${axis === "x" ? "y" : "x"} at these ${axis}`}
              given={values.join("; ")}
              read={numbersOf}
              need="Numbers, apart by spaces or semicolons; a column may be pasted."
              onCommit={(next) =>
                next.join() !== values.join() &&
                set({ [key]: next }, `Predict: at ${axis} ${next.join(", ") || "nothing"}`)
              }
              lines
              className="w-[190px]"
            />
          </Row>
        );
      })}
      <Row label="The interval is of">
        <Pick
          label="Interval of"
          value={step.of ?? "curve"}
          options={[
            { value: "curve", text: "the curve" },
            { value: "reading", text: "one more reading" },
          ]}
          onChange={(of) => set({ of }, `Predict: interval of the ${of}`)}
        />
        <IntervalPick level={step.level} onChange={(level) => set({ level }, `Predict: interval ${level}`)} />
      </Row>
    </>
  );
}
