/* The curve of a relation: a model, an equation of one's own, or the table itself; weights, window, digits. */
import { useState } from "react";
import type { RunView } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { Pick } from "../../../ui/Choice";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";
import { Fitted } from "../../working/Fitted";
import { DraftField, NumberField, PickRow, ROBUST, Row, useStep } from "../../working/fields";
import { ModelPicker } from "../../working/ModelPicker";
import { OwnEquation } from "./OwnEquation";

type Step = Extract<RunView["revision"]["method"]["steps"][number], { kind: "relation_curve" }>;

const WEIGHTS: { value: NonNullable<Step["weights"]>; text: string }[] = [
  { value: "none", text: "nothing: all alike" },
  { value: "error", text: "its error, 1/error²" },
  { value: "1/x", text: "1/x" },
  { value: "1/x^2", text: "1/x²" },
  { value: "1/y", text: "1/y" },
  { value: "1/y^2", text: "1/y²" },
  { value: "1/yhat^2", text: "1/ŷ²" },
];
const FIT_TO = [
  { value: "readings", text: "every reading" },
  { value: "means", text: "the mean at each x" },
] as const;
const DIGITS = [
  { value: "", text: "as their intervals decide" },
  ...[2, 3, 4, 5, 6].map((n) => ({ value: String(n), text: `${n} significant digits` })),
];
const FRESH = { start: {}, fixed: {}, bounds: {} };

export function RelationCurvePanel() {
  const { view } = useOpenRun();
  const { curve } = useCurves();
  const { step, set } = useStep("relation_curve");
  const [typing, setTyping] = useState(false);
  const errors = view.readings.readings.some((reading) => reading.error != null);
  const model = step.model ?? "line";
  return (
    <div className="flex flex-col gap-2">
      <ModelPicker
        chosen={model}
        few={["line", "quadratic", "hyperbola", "exponential_decay", "optimum"]}
        onChoose={(next) =>
          next.id === "custom" ? setTyping(true) : set({ model: next.id, ...FRESH }, `Curve: ${next.name}`)
        }
      />
      <div className="flex gap-3">
        <Button look="text" onClick={() => setTyping(true)}>
          {model === "custom" ? "Change the equation" : "Own equation"}
        </Button>
        {model !== "table" && (
          <Button
            look="text"
            onClick={() => set({ model: "table", ...FRESH }, "Curve: none, read off the table")}
          >
            Read off the table
          </Button>
        )}
      </div>
      {typing && (
        <OwnEquation
          step={step}
          onUse={(equation, start) => {
            setTyping(false);
            set({ model: "custom", equation, ...FRESH, start }, `Curve: ${equation}`);
          }}
          onClose={() => setTyping(false)}
        />
      )}
      {curve.suggestion && (
        <div className="rounded-md bg-iodine-tint p-2 text-iodine">
          {curve.suggestion.text}{" "}
          <Button
            look="text"
            className="font-semibold"
            onClick={() => {
              const { model: other, weights, action } = curve.suggestion!;
              set((other ? { model: other, ...FRESH } : { weights }) as Partial<Step>, `Curve: ${action}`);
            }}
          >
            {curve.suggestion.action}
          </Button>
        </div>
      )}
      {model !== "table" && (
        <div>
          <Row label="x from">
            <Ends step={step} set={set} />
          </Row>
          <LeftOut step={step} set={set} />
          <PickRow
            says="The curve goes through"
            label="Fit to"
            value={step.fit_to ?? "readings"}
            options={FIT_TO}
            onChange={(fit_to) => set({ fit_to }, `Curve: fit to ${fit_to}`)}
          />
          <PickRow
            says="Each is weighted by"
            label="Weights"
            value={step.weights ?? "none"}
            options={WEIGHTS.filter((each) => each.value !== "error" || errors)}
            onChange={(weights) => set({ weights }, `Curve: weights ${weights}`)}
          />
          <PickRow
            says="Outlying points are"
            label="Robust"
            value={step.robust ?? "off"}
            options={ROBUST}
            onChange={(robust) => set({ robust }, `Curve: robust ${robust}`)}
          />
          <PickRow
            says="Parameters are shown to"
            label="Digits of the parameters"
            value={step.digits == null ? "" : String(step.digits)}
            options={DIGITS}
            onChange={(digits) =>
              set({ digits: digits === "" ? null : Number(digits) }, `Curve: ${digits || "own"} digits`)
            }
          />
        </div>
      )}
      {model !== "table" && curve.parameters.length > 0 && (
        <Bounds step={step} set={set} names={curve.parameters.map((row) => row.name)} />
      )}
      {(curve.with_numbers || curve.brief) && (
        <Fitted
          curve={curve}
          fixed={step.fixed ?? {}}
          onFix={(name, value) => {
            const { [name]: _, ...rest } = step.fixed ?? {};
            set(
              { fixed: value === null ? rest : { ...rest, [name]: value } },
              value === null ? `Curve: ${name} free` : `Curve: ${name} fixed at ${value}`,
            );
          }}
        />
      )}
    </div>
  );
}

/** Between which values each parameter may lie; empty is open. */
function Bounds({ step, set, names }: PartProps & { names: readonly string[] }) {
  const bounds = step.bounds ?? {};
  const put = (name: string, end: "lower" | "upper", value: number | null) => {
    const { [name]: own, ...others } = bounds;
    const next = { ...own, [end]: value };
    const open = next.lower == null && next.upper == null;
    set({ bounds: open ? others : { ...others, [name]: next } }, `Curve: bounds of ${name}`);
  };
  return (
    <details className="text-md" open={Object.keys(bounds).length > 0}>
      <summary className="text-graphite">Bounds of the parameters</summary>
      {names.map((name) => (
        <Row key={name} label={`${name} from`}>
          {(["lower", "upper"] as const).map((end) => (
            <span key={end} className="flex items-center gap-1">
              {end === "upper" && "to"}
              <DraftField
                key={String(bounds[name]?.[end])}
                label={`${end === "lower" ? "Lowest" : "Highest"} ${name}`}
                given={bounds[name]?.[end] == null ? "" : String(bounds[name]![end])}
                read={(text) => (text.trim() === "" ? "open" : Number.isFinite(Number(text)) ? text : null)}
                need="Type a number, or nothing for an open end."
                onCommit={(text) => {
                  const value = text === "open" ? null : Number(text);
                  if (value !== (bounds[name]?.[end] ?? null)) put(name, end, value);
                }}
                className="w-[64px] text-right"
              />
            </span>
          ))}
        </Row>
      ))}
    </details>
  );
}

interface PartProps {
  step: Step;
  set: (change: Partial<Step>, words: string) => void;
}

/** The ends of x that are taken in; empty is open. */
function Ends({ step, set }: PartProps) {
  const window = step.window ?? {};
  return (
    <>
      {(["lower", "upper"] as const).map((end) => (
        <span key={end} className="flex items-center gap-1">
          {end === "upper" && "to"}
          <DraftField
            key={String(window[end])}
            label={end === "lower" ? "Lowest x in the fit" : "Highest x in the fit"}
            given={window[end] == null ? "" : String(window[end])}
            read={(text) => (text.trim() === "" ? "open" : Number.isFinite(Number(text)) ? text : null)}
            need="Type a number, or nothing for an open end."
            onCommit={(text) => {
              const value = text === "open" ? null : Number(text);
              if (value !== (window[end] ?? null))
                set({ window: { ...window, [end]: value } }, "Curve: window of x");
            }}
            className="w-[64px] text-right"
          />
        </span>
      ))}
      <span className="text-sm text-graphite">empty: open</span>
    </>
  );
}

const ORDERS = [
  { value: "x", text: "by x" },
  { value: "table", text: "in the order of the table" },
] as const;

/** The first and last points, of all series at once, and the most that may go. */
function LeftOut({ step, set }: PartProps) {
  const out = step.leave_out ?? {};
  const count = (value: number) => Number.isInteger(value) && value >= 0 && value <= 1000;
  return (
    <Row label="Left out are the first">
      <NumberField
        key={`first ${out.first}`}
        label="First points left out"
        value={out.first ?? 0}
        fits={count}
        need="Type how many, such as 2."
        onCommit={(first) => set({ leave_out: { ...out, first } }, `Curve: leave out the first ${first}`)}
      />
      and last
      <NumberField
        key={`last ${out.last}`}
        label="Last points left out"
        value={out.last ?? 0}
        fits={count}
        need="Type how many, such as 2."
        onCommit={(last) => set({ leave_out: { ...out, last } }, `Curve: leave out the last ${last}`)}
      />
      <Pick
        label="Order of leaving out"
        value={out.by ?? "x"}
        options={ORDERS}
        onChange={(by) =>
          set({ leave_out: { ...out, by } }, `Curve: leave out ${by === "x" ? "by x" : "by table"}`)
        }
      />
      , at most
      <DraftField
        key={`most ${out.at_most}`}
        label="Most points that may be left out"
        given={out.at_most == null ? "" : String(out.at_most)}
        read={(text) => (text.trim() === "" ? "any" : count(Number(text)) ? text : null)}
        need="Type a whole number, or nothing for no rule."
        onCommit={(text) => {
          const at_most = text === "any" ? null : Number(text);
          if (at_most !== (out.at_most ?? null))
            set({ leave_out: { ...out, at_most } }, "Curve: rule of leaving out");
        }}
        className="w-[48px] text-right"
      />
    </Row>
  );
}
