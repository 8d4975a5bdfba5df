/* The choices of the curve: model, weights, window of standards; beside them the parameters and the other models. */
import { useState } from "react";
import type { Curve, CurveStep, ParameterRow } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { typed } from "../../ui/Field";
import { stepOf, useWorkspace } from "../workspace";
import { ModelPicker } from "./ModelPicker";
import { Row } from "./panels";

const WEIGHTS: { value: NonNullable<CurveStep["weights"]>; text: string }[] = [
  { value: "none", text: "none" },
  { value: "1/x", text: "1/x" },
  { value: "1/x^2", text: "1/x²" },
  { value: "1/y", text: "1/y" },
  { value: "1/y^2", text: "1/y²" },
  { value: "1/yhat^2", text: "1/ŷ²" },
];

export function CurvePanel() {
  const { view, act, curve, curves } = useWorkspace();
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
      {curve.suggestion && (
        <div className="rounded-md bg-iodine-tint p-2 text-iodine">
          {curve.suggestion.text}{" "}
          <Button
            look="text"
            className="font-semibold"
            onClick={() => {
              const { lower, upper, action, model } = curve.suggestion!;
              set(model ? { model, fixed: {} } : { window: { lower, upper } }, `Curve: ${action}`);
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
        <Row label="Fit to">
          <Pick
            label="Fit to"
            value={step.fit_to ?? "readings"}
            options={FIT_TO}
            onChange={(fit_to) => set({ fit_to }, `Curve: fit to ${fit_to}`)}
          />
        </Row>
        <Row label="Fitted is">
          <Pick
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
        </Row>
        {(several || (step.per ?? "run") !== "run") && (
          <Row label="Curves">
            <Pick
              label="One curve for"
              value={step.per ?? "run"}
              options={PER}
              onChange={(per) => set({ per }, `Curve: one for each ${per}`)}
            />
          </Row>
        )}
        <Row label="Robust">
          <Pick
            label="Robust"
            value={step.robust ?? "off"}
            options={ROBUST}
            onChange={(robust) => set({ robust }, `Curve: robust ${robust}`)}
          />
        </Row>
        <Row label="Leave out">
          <Count
            label="Lowest levels left out"
            value={out.lowest}
            onChange={(n) => set({ leave_out: { ...out, lowest: n } }, `Curve: leave out the first ${n}`)}
          />
          first,
          <Count
            label="Highest levels left out"
            value={out.highest}
            onChange={(n) => set({ leave_out: { ...out, highest: n } }, `Curve: leave out the last ${n}`)}
          />
          last
        </Row>
      </div>
      {curve.with_numbers && (
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

const WAYS = [
  { value: "signal", text: "the signal" },
  { value: "concentration", text: "the concentration" },
] as const;
const PER = [
  { value: "run", text: "one for the run" },
  { value: "plate", text: "one for each plate" },
  { value: "series", text: "one for each series" },
] as const;
const FIT_TO = [
  { value: "readings", text: "every reading" },
  { value: "means", text: "means" },
] as const;
const ROBUST = [
  { value: "off", text: "off" },
  { value: "huber", text: "Huber" },
  { value: "bisquare", text: "bisquare" },
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
      className="w-10 rounded-md border border-rule bg-chalk px-1.5"
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

interface FittedProps {
  curve: Curve;
  fixed: Record<string, number>;
  onFix: (name: string, value: number | null) => void;
}

function Fitted({ curve, fixed, onFix }: FittedProps) {
  const { showNumber } = useWorkspace();
  return (
    <>
      <p className="font-serif text-[15px] break-words italic" title={curve.with_numbers}>
        {curve.equation.length > 40 ? curve.equation : curve.with_numbers}
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
            <Parameter
              key={row.name}
              row={row}
              fixed={fixed[row.name]}
              onFix={onFix}
              onShow={() => showNumber({ id: `${curve.tag}parameter.${row.name}`, title: row.name })}
            />
          ))}
        </tbody>
      </table>
      <table aria-label="Curves compared" className="w-full text-md">
        <thead className="border-b border-rule text-sm">
          <tr>
            <th className={HEAD}>RMSE</th>
            <th className={HEAD}>AICc</th>
            <th className={HEAD} title="p of the lack-of-fit test">
              Lack of fit
            </th>
            <th className={HEAD} title="How far, on average, the standards read back from what they are">
              Missed by
            </th>
          </tr>
        </thead>
        {curve.candidates.map((row) => (
          <tbody key={row.model} className={row.chosen ? "font-semibold" : ""}>
            <tr>
              <th scope="rowgroup" colSpan={4} className="pt-1 text-left font-[inherit]">
                {row.name}
              </th>
            </tr>
            <tr className="border-b border-rule/70">
              <td className={CELL}>{row.shown_rmse}</td>
              <td className={CELL}>{row.shown_aicc}</td>
              <td className={`${CELL} ${(row.lack_of_fit_p ?? 1) < 0.05 ? "text-cinnabar" : ""}`}>
                {row.lack_of_fit_p == null ? "—" : `p ${row.shown_lack_of_fit}`}
              </td>
              <td className={CELL} title={row.shown_missed}>
                {row.shown_missed?.replace(/ \(.*/, "")}
              </td>
            </tr>
          </tbody>
        ))}
      </table>
      {curve.comparison && <p className="text-md text-graphite">{curve.comparison}</p>}
      <details className="text-md">
        <summary className="text-graphite">All statistics</summary>
        <dl className="grid grid-cols-[110px_1fr] gap-y-0.5 pt-1">
          {curve.statistics.map(({ name, shown, working }) => (
            <div key={name} className="contents">
              <dt className="text-graphite">{name}</dt>
              <dd>
                {working ? (
                  <button
                    type="button"
                    title="Show working"
                    className="text-left hover:text-permanganate"
                    onClick={() => showNumber({ id: working, title: name })}
                  >
                    {shown}
                  </button>
                ) : (
                  shown
                )}
              </dd>
            </div>
          ))}
        </dl>
      </details>
    </>
  );
}

interface ParameterProps {
  row: ParameterRow;
  fixed: number | undefined;
  onFix: FittedProps["onFix"];
  onShow: () => void;
}

function Parameter({ row, fixed, onFix, onShow }: ParameterProps) {
  const [asking, setAsking] = useState<string | null>(null);
  const value = asking === null ? Number.NaN : typed(asking);
  return (
    <tr className="border-b border-rule/70">
      <td className={CELL} title={`${row.name}: different from zero with p ${row.shown_p}`}>
        <button
          type="button"
          aria-label={`Working of ${row.name}`}
          className="hover:text-permanganate"
          onClick={onShow}
        >
          {row.name}
        </button>{" "}
        {row.unit && <span className="text-sm text-graphite">{row.unit}</span>}
      </td>
      <td className={CELL} title={`In full: ${row.estimate}. Click to hold it at a value.`}>
        {asking === null ? (
          <button
            type="button"
            aria-label={`${row.name} is ${row.shown}; hold it at a value`}
            className="hover:text-permanganate"
            onClick={() => setAsking(String(fixed ?? +row.estimate.toPrecision(4)))}
          >
            {row.shown}
          </button>
        ) : (
          <input
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            aria-label={`${row.name} held at`}
            value={asking}
            onChange={(event) => setAsking(event.target.value)}
            onBlur={() => setAsking(null)}
            onKeyDown={(event) => {
              if (event.key === "Escape") setAsking(null);
              if (event.key !== "Enter" || !Number.isFinite(value)) return;
              onFix(row.name, value);
              setAsking(null);
            }}
            className="w-16 rounded-md border border-rule bg-chalk px-1 text-right"
          />
        )}
      </td>
      <td className={CELL}>
        {fixed === undefined ? (
          row.shown_interval
        ) : (
          <Button look="text" className="text-sm" onClick={() => onFix(row.name, null)}>
            held; let go
          </Button>
        )}
      </td>
    </tr>
  );
}
