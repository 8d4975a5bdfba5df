/* The choices of the curve: model, weights, window of standards; beside them the parameters and the other models. */
import type { Curve, CurveStep, ParameterRow } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { stepOf, useWorkspace } from "../workspace";
import { Row } from "./panels";

const MODELS = [
  { id: "line", text: "Line", path: "M7 3V26H52M7 19L50 6" },
  { id: "line_through_zero", text: "Through zero", path: "M7 3V26H52M7 26L50 6" },
] as const;

const WEIGHTS: { value: NonNullable<CurveStep["weights"]>; text: string }[] = [
  { value: "none", text: "none" },
  { value: "1/x", text: "1/x" },
  { value: "1/x^2", text: "1/x²" },
  { value: "1/y", text: "1/y" },
  { value: "1/y^2", text: "1/y²" },
];

export function CurvePanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "curve");
  const curve = view.revision.outcome.curve;
  const set = (change: Partial<CurveStep>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return (
    <div className="flex flex-col gap-3">
      <div role="radiogroup" aria-label="Model" className="flex gap-2">
        {MODELS.map((model) => (
          <button
            key={model.id}
            type="button"
            role="radio"
            aria-checked={step.model === model.id}
            onClick={() => step.model !== model.id && set({ model: model.id }, `Curve: ${model.text}`)}
            className={`flex w-[84px] flex-col items-center rounded-md border bg-chalk p-1 text-sm ${step.model === model.id ? "border-permanganate font-semibold text-permanganate ring-1 ring-permanganate" : "border-rule"}`}
          >
            <svg viewBox="0 0 56 30" className="h-[30px] w-14" aria-hidden>
              <path d={model.path} fill="none" stroke="currentColor" strokeWidth={1.8} />
            </svg>
            {model.text}
          </button>
        ))}
      </div>
      {curve.suggestion && (
        <div className="rounded-md bg-iodine-tint p-2 text-iodine">
          {curve.suggestion.text}{" "}
          <Button
            look="text"
            className="font-semibold"
            onClick={() => {
              const { lower, upper, action } = curve.suggestion!;
              set({ window: { lower, upper } }, `Curve: ${action}`);
            }}
          >
            {curve.suggestion.action}
          </Button>
        </div>
      )}
      <div>
        <Row label="Use">
          <WindowPick
            step={step}
            curve={curve}
            onChange={(window) => set({ window }, "Curve: window of standards")}
          />
        </Row>
        <Row label="Weights">
          <Pick
            label="Weights"
            value={step.weights ?? "none"}
            options={WEIGHTS}
            onChange={(weights) => set({ weights }, `Curve: weights ${weights}`)}
          />
        </Row>
      </div>
      {curve.with_numbers && <Fitted curve={curve} />}
    </div>
  );
}

interface WindowProps {
  step: CurveStep;
  curve: Curve;
  onChange: (window: CurveStep["window"]) => void;
}

const OPEN = "open";

function WindowPick({ step, curve, onChange }: WindowProps) {
  const { view } = useWorkspace();
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

const HEAD = "py-1 text-right font-normal text-graphite first:text-left";
const CELL = "whitespace-nowrap py-1 text-right first:text-left";

function Fitted({ curve }: { curve: Curve }) {
  return (
    <>
      <p className="font-serif text-[15px] italic" title={curve.equation}>
        {curve.with_numbers}
      </p>
      <table className="w-full text-md">
        <thead className="border-b border-rule text-sm">
          <tr>
            <th className={HEAD}>Parameter</th>
            <th className={HEAD}>Estimate</th>
            <th className={HEAD}>95 % interval</th>
          </tr>
        </thead>
        <tbody>
          {curve.parameters.map((row) => (
            <Parameter key={row.name} row={row} />
          ))}
        </tbody>
      </table>
      <table className="w-full text-md">
        <thead className="border-b border-rule text-sm">
          <tr>
            <th className={HEAD}>Compared</th>
            <th className={HEAD}>RMSE</th>
            <th className={HEAD}>AICc</th>
            <th className={HEAD}>Lack of fit</th>
          </tr>
        </thead>
        <tbody>
          {curve.candidates.map((row) => (
            <tr key={row.model} className={`border-b border-rule/70 ${row.chosen ? "font-semibold" : ""}`}>
              <td className={CELL}>{row.name.replace("Line through", "Through")}</td>
              <td className={CELL}>{row.shown_rmse}</td>
              <td className={CELL}>{row.shown_aicc}</td>
              <td className={`${CELL} ${(row.lack_of_fit_p ?? 1) < 0.05 ? "text-cinnabar" : ""}`}>
                {row.lack_of_fit_p == null ? "—" : `p ${row.shown_lack_of_fit}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <details className="text-md">
        <summary className="text-graphite">All statistics</summary>
        <dl className="grid grid-cols-[110px_1fr] gap-y-0.5 pt-1">
          {curve.statistics.map(({ name, shown }) => (
            <div key={name} className="contents">
              <dt className="text-graphite">{name}</dt>
              <dd>{shown}</dd>
            </div>
          ))}
        </dl>
      </details>
    </>
  );
}

function Parameter({ row }: { row: ParameterRow }) {
  return (
    <tr className="border-b border-rule/70">
      <td className={CELL} title={`${row.name}: different from zero with p ${row.shown_p}`}>
        {row.name} {row.unit && <span className="text-sm text-graphite">{row.unit}</span>}
      </td>
      <td className={CELL} title={`In full: ${row.estimate}`}>
        {row.shown}
      </td>
      <td className={CELL}>{row.shown_interval}</td>
    </tr>
  );
}
