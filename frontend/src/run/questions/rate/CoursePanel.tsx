/* What is made of each course: a line through its straight part, its slope at the start, or a model of the whole. */
import { useState } from "react";
import type { RunView } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { Segments } from "../../../ui/Choice";
import { useCurves } from "../../state/curves";
import { Fitted } from "../../working/Fitted";
import { DraftField, NumberField, PickRow, Row, useStep } from "../../working/fields";
import { ModelPicker } from "../../working/ModelPicker";
import { OwnEquation } from "../../working/OwnEquation";

type Step = Extract<RunView["revision"]["method"]["steps"][number], { kind: "course" }>;

const BY = [
  { value: "straight", text: "Straight part" },
  { value: "start", text: "At the start" },
  { value: "whole", text: "Whole" },
] as const;
const SCALES = [
  { value: "linear", text: "y" },
  { value: "ln", text: "ln y" },
  { value: "percent", text: "percent of its greatest y" },
] as const;
const FEW = [
  "growth_logistic",
  "growth_gompertz",
  "growth_baranyi",
  "exponential_growth",
  "exponential_decay",
];

export function CoursePanel() {
  const { curve } = useCurves();
  const { step, set } = useStep("course");
  const [typing, setTyping] = useState(false);
  const window = step.window ?? {};
  const proposed = step.propose && window.lower == null && window.upper == null;
  return (
    <div className="flex flex-col gap-2">
      <Segments
        label="Taken from"
        value={step.by ?? "straight"}
        options={BY}
        onChange={(by) => set({ by }, `Course: ${BY.find((each) => each.value === by)!.text.toLowerCase()}`)}
      />
      {step.by === "whole" && (
        <>
          <ModelPicker
            chosen={step.model ?? "growth_logistic"}
            few={FEW}
            onChoose={(next) =>
              next.id === "custom"
                ? setTyping(true)
                : set({ model: next.id, start: {}, fixed: {} }, `Course: ${next.name}`)
            }
          />
          <Button look="text" onClick={() => setTyping(true)}>
            {step.model === "custom" ? "Change the equation" : "Own equation"}
          </Button>
          {typing && (
            <OwnEquation
              equation={step.equation ?? ""}
              start={step.start ?? {}}
              onUse={(equation, start) => {
                setTyping(false);
                set({ model: "custom", equation, start, fixed: {} }, `Course: ${equation}`);
              }}
              onClose={() => setTyping(false)}
            />
          )}
          <PickRow
            says="The model goes through"
            label="Scale of y"
            value={step.scale ?? "linear"}
            options={SCALES}
            onChange={(scale) =>
              set({ scale }, `Course: through ${SCALES.find((s) => s.value === scale)!.text}`)
            }
          />
          <Row label="Steepest slope without a model, over">
            <NumberField
              key={step.points}
              label="Points of the steepest slope"
              value={step.points ?? 5}
              fits={(value) => Number.isInteger(value) && value >= 3 && value <= 1001}
              need="Type how many neighboring points, from 3."
              onCommit={(points) => set({ points }, `Course: steepest slope over ${points} points`)}
            />
            points
          </Row>
        </>
      )}
      <Row label="Window from">
        <OpenEnd end="lower" step={step} set={set} />
        to
        <OpenEnd end="upper" step={step} set={set} />
        <span className="text-sm text-graphite">empty: open; or drag its ends</span>
      </Row>
      {step.by !== "whole" &&
        (proposed ? (
          <p className="text-sm text-graphite">The window is proposed; a typed or dragged one replaces it.</p>
        ) : (
          <Button
            look="text"
            onClick={() =>
              set(
                {
                  propose: true,
                  window: { lower: null, upper: null },
                  leave_out: { ...step.leave_out, first: 0, last: 0 },
                },
                "Course: the proposed window",
              )
            }
          >
            Take the proposed window
          </Button>
        ))}
      <LeftOut step={step} set={set} />
      <OwnWindow step={step} set={set} />
      {(curve.with_numbers || curve.brief) && (
        <Fitted
          curve={curve}
          fixed={step.fixed ?? {}}
          onFix={step.by === "whole" ? (fixed, words) => set({ fixed }, `Course: ${words}`) : undefined}
        />
      )}
    </div>
  );
}

interface PartProps {
  step: Step;
  set: (change: Partial<Step>, words: string) => void;
}

function OpenEnd({ end, step, set }: PartProps & { end: "lower" | "upper" }) {
  const window = step.window ?? {};
  const value = window[end] ?? null;
  return (
    <OpenNumber
      label={end === "lower" ? "Start of the window in time" : "End of the window in time"}
      value={value}
      need="Type a time, or nothing for an open end."
      onCommit={(next) =>
        set({ window: { ...window, [end]: next }, propose: false }, `Course: window ${end} ${next ?? "open"}`)
      }
    />
  );
}

interface OpenProps {
  label: string;
  value: number | null;
  need: string;
  fits?: (value: number) => boolean;
  onCommit: (value: number | null) => void;
}

/** A number that may be left open by leaving its field empty. */
function OpenNumber({ label, value, need, fits = () => true, onCommit }: OpenProps) {
  return (
    <DraftField
      key={String(value)}
      label={label}
      given={value === null ? "" : String(value)}
      read={(text) => {
        if (text.trim() === "") return "open";
        const typed = Number(text.replace(",", "."));
        return Number.isFinite(typed) && fits(typed) ? String(typed) : null;
      }}
      need={need}
      onCommit={(text) => {
        const next = text === "open" ? null : Number(text);
        if (next !== value) onCommit(next);
      }}
      className="w-[64px] text-right"
    />
  );
}

/** The first and last points of every course at once, and the most that may go at either end. */
function LeftOut({ step, set }: PartProps) {
  const out = step.leave_out ?? {};
  const count = (value: number) => Number.isInteger(value) && value >= 0 && value <= 100000;
  const need = "Type how many, such as 3.";
  return (
    <Row label="Left out are the first">
      <NumberField
        key={`first ${out.first}`}
        label="First points left out"
        value={out.first ?? 0}
        fits={count}
        need={need}
        onCommit={(first) =>
          set({ leave_out: { ...out, first } }, `Course: leave out the first ${first} of every course`)
        }
      />
      and last
      <NumberField
        key={`last ${out.last}`}
        label="Last points left out"
        value={out.last ?? 0}
        fits={count}
        need={need}
        onCommit={(last) =>
          set({ leave_out: { ...out, last } }, `Course: leave out the last ${last} of every course`)
        }
      />
      points; rule: at most
      <OpenNumber
        label="Most points that may be left out at either end"
        value={out.at_most ?? null}
        fits={count}
        need="Type a whole number, or nothing for no rule."
        onCommit={(at_most) => set({ leave_out: { ...out, at_most } }, "Course: rule of leaving out")}
      />
      at either end
    </Row>
  );
}

/** A window of its own for the course looked at. */
function OwnWindow({ step, set }: PartProps) {
  const { curve } = useCurves();
  const name = (curve.key ?? "").replace(/ · \d+$/, "");
  const own = step.own ?? {};
  const mine = own[name];
  if (!name) return null;
  const put = (next: { lower?: number | null; upper?: number | null } | undefined) => {
    const { [name]: _, ...others } = own;
    set({ own: next ? { ...others, [name]: next } : others }, `Course: window of ${name}`);
  };
  return (
    <details className="text-md" open={mine !== undefined}>
      <summary className="text-graphite">A window of its own for {name}</summary>
      <Row label="From">
        <OpenNumber
          label={`Start of the window of ${name}`}
          value={mine?.lower ?? null}
          need="Type a time, or nothing for an open end."
          onCommit={(lower) => put({ ...mine, lower })}
        />
        to
        <OpenNumber
          label={`End of the window of ${name}`}
          value={mine?.upper ?? null}
          need="Type a time, or nothing for an open end."
          onCommit={(upper) => put({ ...mine, upper })}
        />
        {mine && (
          <Button look="text" className="text-sm" onClick={() => put(undefined)}>
            as the others
          </Button>
        )}
      </Row>
    </details>
  );
}
