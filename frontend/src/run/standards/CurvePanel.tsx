/* The choices of the curve: model, weights, window of standards; beside them the parameters and the other models. */

import type { Curve, CurveStep } from "../../api/schema";
import { Pick } from "../../ui/Choice";
import { useCurves } from "../state/curves";
import { stepOf, useOpenRun } from "../state/open";
import { Fitted } from "../working/Fitted";
import { PickRow, ROBUST, Row } from "../working/fields";
import { ModelPicker } from "../working/ModelPicker";
import { Suggested } from "../working/Suggested";

const WEIGHTS: { value: NonNullable<CurveStep["weights"]>; text: string }[] = [
  { value: "auto", text: "their spread, where it rises" },
  { value: "none", text: "nothing: all alike" },
  { value: "1/x", text: "1/x" },
  { value: "1/x^2", text: "1/x²" },
  { value: "1/y", text: "1/y" },
  { value: "1/y^2", text: "1/y²" },
  { value: "1/yhat^2", text: "1/ŷ²" },
];

export function CurvePanel() {
  const { view, act } = useOpenRun();
  const { curve, curves } = useCurves();
  const step = stepOf(view, "curve");
  const { groups } = view.revision.layout;
  const several =
    curves.length > 1 ||
    (view.readings.plates ?? []).length > 1 ||
    new Set(groups.filter((group) => group.role === "standard").map((group) => group.series)).size > 1;
  const out = step.leave_out ?? { lowest: 0, highest: 0 };
  const set = (change: Partial<CurveStep>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return (
    <div className="flex flex-col gap-3">
      <ModelPicker
        chosen={step.model ?? "line"}
        onChoose={(model) => set({ model: model.id, fixed: {} }, `Curve: ${model.name}`)}
      />
      <Suggested
        curve={curve}
        onTake={({ lower, upper, action, model, weights }) => {
          const change = model ? { model, fixed: {} } : weights ? { weights } : { window: { lower, upper } };
          set(change as Partial<CurveStep>, `Curve: ${action}`);
        }}
      />
      <div>
        <Row label="Standards from">
          <WindowPick
            step={step}
            curve={curve}
            onChange={(window) => set({ window }, "Curve: window of standards")}
          />
        </Row>
        <PickRow
          says="Each is weighted by"
          label="Weights"
          value={step.weights ?? "auto"}
          options={WEIGHTS}
          onChange={(weights) => set({ weights }, `Curve: weights ${weights}`)}
        />
        <PickRow
          says="The curve goes through"
          label="Fit to"
          value={step.fit_to ?? "readings"}
          options={FIT_TO}
          onChange={(fit_to) => set({ fit_to }, `Curve: fit to ${fit_to}`)}
        />
        <PickRow
          says="It gives"
          label="Which way the curve is fitted"
          value={step.way ?? "signal"}
          options={WAYS}
          onChange={(way) =>
            set(
              { way },
              way === "signal" ? "Curve: signal on concentration" : "Curve: concentration on signal",
            )
          }
        />
        {(several || !["run", "each"].includes(step.per ?? "each")) && (
          <PickRow
            says="There is"
            label="One curve for"
            value={step.per ?? "each"}
            options={PER}
            onChange={(per) => set({ per }, `Curve: one for each ${per}`)}
          />
        )}
        <PickRow
          says="Outlying readings are"
          label="Robust"
          value={step.robust ?? "off"}
          options={ROBUST}
          onChange={(robust) => set({ robust }, `Curve: robust ${robust}`)}
        />
        <Row label="Left out are the">
          <Count
            label="Lowest levels left out"
            value={out.lowest}
            onChange={(n) => set({ leave_out: { ...out, lowest: n } }, `Curve: leave out the first ${n}`)}
          />
          lowest and
          <Count
            label="Highest levels left out"
            value={out.highest}
            onChange={(n) => set({ leave_out: { ...out, highest: n } }, `Curve: leave out the last ${n}`)}
          />
          highest levels
        </Row>
      </div>
      {curve.with_numbers && (
        <Fitted
          curve={curve}
          fixed={step.fixed ?? {}}
          onFix={(fixed, words) => set({ fixed }, `Curve: ${words}`)}
        />
      )}
    </div>
  );
}

const WAYS = [
  { value: "signal", text: "the signal at a concentration" },
  { value: "concentration", text: "the concentration at a signal" },
] as const;
const PER = [
  { value: "each", text: "one curve for whatever has standards of its own" },
  { value: "run", text: "one curve for the run" },
  { value: "plate", text: "one curve for each plate" },
  { value: "series", text: "one curve for each series" },
] as const;
const FIT_TO = [
  { value: "readings", text: "every reading" },
  { value: "means", text: "means" },
] as const;
function Count({ label, value, onChange }: { label: string; value: number; onChange: (n: number) => void }) {
  return (
    <input
      type="number"
      aria-label={label}
      min={0}
      max={50}
      value={value}
      onChange={(event) => {
        const next = Math.round(Number(event.target.value));
        if (next >= 0 && next <= 50 && next !== value) onChange(next);
      }}
      className="w-9 rounded-md border border-rule bg-chalk pl-1.5"
    />
  );
}

interface WindowProps {
  step: CurveStep;
  curve: Curve;
  onChange: (window: CurveStep["window"]) => void;
}

const OPEN = "open";

function WindowPick({ step, curve, onChange }: WindowProps) {
  const { view } = useOpenRun();
  const unit = view.revision.layout.level.unit;
  const levels = curve.levels.map((level) => ({ value: String(level), text: `${level} ${unit}`.trim() }));
  const lower = step.window?.lower;
  const upper = step.window?.upper;
  const end = (value: string) => (value === OPEN ? null : Number(value));
  return (
    <span className="flex flex-wrap items-center gap-1">
      <Pick
        label="Lowest standard in the fit"
        value={lower == null ? OPEN : String(lower)}
        options={[{ value: OPEN, text: "lowest" }, ...levels]}
        onChange={(value) => onChange({ lower: end(value), upper: upper ?? null })}
      />
      to
      <Pick
        label="Highest standard in the fit"
        value={upper == null ? OPEN : String(upper)}
        options={[{ value: OPEN, text: "highest" }, ...levels]}
        onChange={(value) => onChange({ lower: lower ?? null, upper: end(value) })}
      />
    </span>
  );
}
