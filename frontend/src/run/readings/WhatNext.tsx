/* What to read next, so that an answer is known well enough: a sentence, three designs and one figure. */
import { scaleLog } from "d3-scale";
import { useState } from "react";
import { usePlan } from "../../api/hooks";
import type { Planned } from "../../api/schema";
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";
import { NumberField, Row } from "../working/fields";

const WIDTH = 300;
const HEIGHT = 150;
const LEFT = 38;
const LINES = ["stroke-graphite", "stroke-cupric", "stroke-permanganate"];
const DASHES = ["4 3", "1 3", ""];

export function WhatNext({ answer }: { answer: string }) {
  const { view } = useOpenRun();
  const [asked, setAsked] = useState(false);
  const [width, setWidth] = useState<number>();
  const found = usePlan(view.run.id, view.revision.number, answer, width, asked);
  if (!asked)
    return (
      <Button look="text" className="mt-1 text-sm" onClick={() => setAsked(true)}>
        What next?
      </Button>
    );
  return (
    <section aria-label="What next" className="mt-2 border-t border-rule pt-1.5 text-sm">
      <Row label="A 95 % interval of ±">
        <NumberField
          key={width ?? found.data?.width}
          label="Half-width wanted, in percent"
          value={found.data ? +(100 * (width ?? found.data.width)).toPrecision(4) : null}
          fits={(value) => value > 0 && value <= 1000}
          need="Type a percentage above 0, such as 5."
          onCommit={(value) => setWidth(value / 100)}
          className="w-[52px]"
        />
        %
      </Row>
      {found.isError ? (
        <p role="alert">{found.error.message}</p>
      ) : !found.data ? (
        <p role="status" className="text-graphite">
          Planning …
        </p>
      ) : (
        <Plan plan={found.data} />
      )}
    </section>
  );
}

function Plan({ plan }: { plan: Planned }) {
  return (
    <>
      <p>{plan.said}</p>
      {plan.simulated != null && (
        <p className="text-graphite">
          By simulation 95 % of answers would lie within ± {(100 * plan.simulated).toPrecision(2)} %.
        </p>
      )}
      <Figure plan={plan} />
      <table className="mt-1 w-full">
        <thead className="text-graphite">
          <tr>
            <th className="text-left font-normal">Readings</th>
            <th className="text-right font-normal">Needed</th>
            <th className="pl-2 text-left font-normal">At {plan.unit}</th>
          </tr>
        </thead>
        <tbody>
          {plan.designs.map((design, i) => (
            <tr key={design.name} className="align-top">
              <td>
                <Key at={i} /> {design.name}
              </td>
              <td className="text-right">{design.needed ?? "> 5,000"}</td>
              <td className="pl-2">
                {design.levels.length > 6
                  ? `${design.shown_levels[0]} – ${design.shown_levels.at(-1)}`
                  : design.counts.map((n, k) => `${n} × ${design.shown_levels[k]}`).join(", ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Key({ at }: { at: number }) {
  return (
    <svg width={18} height={6} aria-hidden className="inline">
      <line x1={0} x2={18} y1={3} y2={3} strokeWidth={2} className={LINES[at]} strokeDasharray={DASHES[at]} />
    </svg>
  );
}

/** Half-width against the number of readings, both on log axes. */
function Figure({ plan }: { plan: Planned }) {
  const points = plan.designs.map((design) =>
    design.readings.flatMap((n, i) => {
      const width = design.widths[i];
      return width == null ? [] : [{ n, width: 100 * width }];
    }),
  );
  const all = points.flat();
  if (all.length < 2) return null;
  const wanted = 100 * plan.width;
  const widths = [...all.map((each) => each.width), wanted];
  const x = scaleLog(
    [Math.min(...all.map((each) => each.n)), Math.max(...all.map((each) => each.n))],
    [LEFT, WIDTH - 8],
  );
  const y = scaleLog([Math.min(...widths) / 1.2, Math.max(...widths) * 1.2], [HEIGHT - 26, 6]);
  const ticks = (scale: typeof x, least: number) => {
    const found = scale.ticks(4).filter((tick) => [1, 2, 5].includes(+`${tick.toExponential()}`[0]!));
    return found.length >= least ? found : scale.domain().map((end) => +end.toPrecision(2));
  };
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-1 w-full max-w-[360px]"
      role="img"
      aria-label={`Half-width in percent against the number of readings; wanted ${wanted.toPrecision(2)} %`}
    >
      {ticks(x, 2).map((tick) => (
        <text
          key={tick}
          x={x(tick)}
          y={HEIGHT - 14}
          textAnchor="middle"
          className="fill-graphite text-[10px]"
        >
          {tick}
        </text>
      ))}
      {ticks(y, 2).map((tick) => (
        <text key={tick} x={LEFT - 5} y={y(tick) + 3} textAnchor="end" className="fill-graphite text-[10px]">
          {tick}
        </text>
      ))}
      <line x1={LEFT} x2={LEFT} y1={6} y2={HEIGHT - 26} className="stroke-graphite" />
      <line x1={LEFT} x2={WIDTH - 8} y1={HEIGHT - 26} y2={HEIGHT - 26} className="stroke-graphite" />
      <line
        x1={LEFT}
        x2={WIDTH - 8}
        y1={y(wanted)}
        y2={y(wanted)}
        className="stroke-iodine"
        strokeDasharray="2 2"
      />
      {points.map((line, i) => (
        <polyline
          key={plan.designs[i]!.name}
          points={line.map((each) => `${x(each.n)},${y(each.width)}`).join(" ")}
          fill="none"
          strokeWidth={1.6}
          strokeDasharray={DASHES[i]}
          className={LINES[i]}
        />
      ))}
      <text x={(LEFT + WIDTH) / 2} y={HEIGHT - 2} textAnchor="middle" className="fill-graphite text-[10px]">
        readings
      </text>
      <text x={LEFT + 4} y={14} className="fill-graphite text-[10px]">
        ± %
      </text>
    </svg>
  );
}
