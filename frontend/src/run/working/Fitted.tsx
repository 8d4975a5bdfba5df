/* What was fitted: the equation, the parameters (each can be held), the curves compared, all statistics. */

import { Fragment, useState } from "react";
import type { Curve, ParameterRow } from "../../api/schema";
import { GuideLink } from "../../app/guide";
import { Button } from "../../ui/Button";
import { typed } from "../../ui/Field";
import { useSelection } from "../state/selection";

const HEAD = "py-1 text-right font-normal text-graphite first:text-left";
const CELL = "whitespace-nowrap py-1 text-right first:text-left";

interface FittedProps {
  curve: Curve;
  fixed: Record<string, number>;
  /** Told what is held after a parameter is held at a value or let go; without it none can be held. */
  onFix?: ((fixed: Record<string, number>, words: string) => void) | undefined;
}

export function Fitted({ curve, fixed, onFix }: FittedProps) {
  const { showNumber } = useSelection();
  const fix =
    onFix &&
    ((name: string, value: number | null) => {
      const { [name]: _, ...rest } = fixed;
      if (value === null) onFix(rest, `${name} free`);
      else onFix({ ...rest, [name]: value }, `${name} fixed at ${value}`);
    });
  if (curve.brief) return <p className="text-md text-graphite">Working out the parameters of {curve.key}…</p>;
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
              onFix={fix}
              onShow={() => showNumber({ id: `${curve.tag}parameter.${row.name}`, title: row.name })}
            />
          ))}
        </tbody>
      </table>
      {curve.candidates.length > 0 && (
        <table aria-label="Curves compared" className="w-full text-md">
          <thead className="border-b border-rule text-sm">
            <tr>
              <th className={HEAD}>RMSE</th>
              <th className={HEAD}>AICc</th>
              <th className={HEAD} title="p of the lack-of-fit test">
                Lack of fit
              </th>
              <th className={HEAD} title="How far, on average, the standards read back from what they are">
                Read-back error
              </th>
            </tr>
          </thead>
          {curve.candidates.map((row) => (
            <tbody key={row.model} className={row.chosen ? "font-semibold" : ""}>
              <tr>
                <th scope="rowgroup" colSpan={3} className="pt-1 text-left align-baseline font-[inherit]">
                  {row.name}
                </th>
                <td className={`${CELL} align-baseline`}>
                  {row.about_zero ? "R₀²" : "R²"} {row.shown_r_squared}
                </td>
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
      )}
      {curve.candidates.some((row) => row.about_zero) && (
        <p className="text-sm text-graphite">
          R₀² is about zero, R² about the mean; the two are not to be compared.
        </p>
      )}
      {curve.comparison && <p className="text-md text-graphite">{curve.comparison}</p>}
      <details className="text-md">
        <summary className="text-graphite">All statistics</summary>
        <dl className="grid grid-cols-[128px_1fr] gap-y-0.5 pt-1">
          {curve.statistics.map(({ name, shown, working, guide }) => (
            <div key={name} className="contents">
              <dt className="flex items-center gap-1 text-graphite">
                {name}
                {guide && <GuideLink to={guide} about={name} />}
              </dt>
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
  onFix: ((name: string, value: number | null) => void) | undefined;
  onShow: () => void;
}

/** On two lines where one has no room for both ends, but never through a number. */
function Interval({ text }: { text: string }) {
  const ends = text.split(" to ");
  return ends.map((end, i) => (
    <Fragment key={i}>
      <span className="whitespace-nowrap">{i < ends.length - 1 ? `${end} to` : end}</span>{" "}
    </Fragment>
  ));
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
            disabled={!onFix}
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
              onFix?.(row.name, value);
              setAsking(null);
            }}
            className="w-16 rounded-md border border-rule bg-chalk px-1 text-right"
          />
        )}
      </td>
      <td className="py-1 pl-3 text-right">
        {fixed === undefined ? (
          <Interval text={row.shown_interval} />
        ) : (
          <Button look="text" className="text-sm" onClick={() => onFix?.(row.name, null)}>
            held; let go
          </Button>
        )}
      </td>
    </tr>
  );
}
