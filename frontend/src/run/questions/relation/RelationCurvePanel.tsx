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
import { OwnEquation } from "../../working/OwnEquation";
import { Suggested } from "../../working/Suggested";

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
          equation={step.equation ?? ""}
          start={step.start ?? {}}
          onUse={(equation, start) => {
            setTyping(false);
            set({ model: "custom", equation, ...FRESH, start }, `Curve: ${equation}`);
          }}
          onClose={() => setTyping(false)}
        />
      )}
      <Suggested
        curve={curve}
        onTake={({ model: other, weights, action }) =>
          set((other ? { model: other, ...FRESH } : { weights }) as Partial<Step>, `Curve: ${action}`)
        }
      />
      {model !== "table" && (
        <div>
          <Row label="x from">
            <TwoEnds
              of="x in the fit"
              span={step.window ?? {}}
              onChange={(window) => set({ window }, "Curve: window of x")}
            />
            <span className="text-sm text-graphite">empty: open</span>
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
          onFix={(fixed, words) => set({ fixed }, `Curve: ${words}`)}
        />
      )}
    </div>
  );
}

/** A number that may be left open by leaving its field empty. */
function OpenNumber({ label, value, fits = () => true, need, onCommit }: OpenProps) {
  return (
    <DraftField
      key={String(value)}
      label={label}
      given={value == null ? "" : String(value)}
      read={(text) => {
        if (text.trim() === "") return "open";
        return Number.isFinite(Number(text)) && fits(Number(text)) ? text : null;
      }}
      need={need}
      onCommit={(text) => {
        const next = text === "open" ? null : Number(text);
        if (next !== (value ?? null)) onCommit(next);
      }}
      className="w-[64px] text-right"
    />
  );
}

interface OpenProps {
  label: string;
  value: number | null | undefined;
  fits?: (value: number) => boolean;
  need: string;
  onCommit: (value: number | null) => void;
}

type Span = { lower?: number | null; upper?: number | null };

/** Two ends, "from … to …", either of which may be open; `of` is what they are the lowest and highest of. */
function TwoEnds({ of, span, onChange }: { of: string; span: Span; onChange: (span: Span) => void }) {
  return (["lower", "upper"] as const).map((end) => (
    <span key={end} className="flex items-center gap-1">
      {end === "upper" && "to"}
      <OpenNumber
        label={`${end === "lower" ? "Lowest" : "Highest"} ${of}`}
        value={span[end]}
        need="Type a number, or nothing for an open end."
        onCommit={(value) => onChange({ ...span, [end]: value })}
      />
    </span>
  ));
}

/** Between which values each parameter may lie; empty is open. */
function Bounds({ step, set, names }: PartProps & { names: readonly string[] }) {
  const bounds = step.bounds ?? {};
  const put = (name: string, next: Span) => {
    const { [name]: _, ...others } = bounds;
    const open = next.lower == null && next.upper == null;
    set({ bounds: open ? others : { ...others, [name]: next } }, `Curve: bounds of ${name}`);
  };
  return (
    <details className="text-md" open={Object.keys(bounds).length > 0}>
      <summary className="text-graphite">Bounds of the parameters</summary>
      {names.map((name) => (
        <Row key={name} label={`${name} from`}>
          <TwoEnds of={name} span={bounds[name] ?? {}} onChange={(next) => put(name, next)} />
        </Row>
      ))}
    </details>
  );
}

interface PartProps {
  step: Step;
  set: (change: Partial<Step>, words: string) => void;
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
      <OpenNumber
        label="Most points that may be left out"
        value={out.at_most}
        fits={count}
        need="Type a whole number, or nothing for no rule."
        onCommit={(at_most) => set({ leave_out: { ...out, at_most } }, "Curve: rule of leaving out")}
      />
    </Row>
  );
}
