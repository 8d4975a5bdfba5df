/* Agreement of a run with the first: differences, or ratios, against the mean of the two. */
import { scaleLinear, scaleLog } from "d3-scale";
import type { Agreement } from "../api/schema";

const WIDTH = 420;
const HEIGHT = 260;
const [LEFT, RIGHT, TOP, BOTTOM] = [56, 306, 14, 218];

export function AgreementPlot({ found, unit }: { found: Agreement; unit: string }) {
  const points = found.firsts.map((a, i) => {
    const b = found.others[i]!;
    return found.ratio ? { x: Math.sqrt(a * b), y: b / a } : { x: (a + b) / 2, y: b - a };
  });
  const xs = points.map((point) => point.x);
  const ys = [...points.map((point) => point.y), found.lower, found.upper, found.ratio ? 1 : 0];
  const ends = (values: number[]): [number, number] => [Math.min(...values), Math.max(...values)];
  const wide = (domain: [number, number]): [number, number] =>
    found.ratio
      ? [domain[0] / 1.06, domain[1] * 1.06]
      : [domain[0] - 0.06 * (domain[1] - domain[0] || 1), domain[1] + 0.06 * (domain[1] - domain[0] || 1)];
  const make = (domain: [number, number], range: [number, number]) =>
    found.ratio ? scaleLog(wide(domain), range) : scaleLinear(wide(domain), range);
  const x = make(ends(xs), [LEFT, RIGHT]);
  const y = make(ends(ys), [BOTTOM, TOP]);
  const text = (value: number) => String(Number(value.toPrecision(3))).replace("-", "−");
  const ticks = (scale: typeof x) =>
    found.ratio ? scale.ticks(5).filter((tick) => /^[125]/.test(tick.toExponential())) : scale.ticks(5);
  return (
    <figure className="w-[420px]">
      <svg
        width={WIDTH}
        height={HEIGHT}
        role="img"
        aria-label={found.said}
        fontSize={12}
        fill="var(--color-graphite)"
      >
        {[
          { at: found.upper, name: `+1.96 SD ${text(found.upper)}` },
          { at: found.mean, name: `mean ${text(found.mean)}` },
          { at: found.lower, name: `−1.96 SD ${text(found.lower)}` },
        ].map(({ at, name }, i) => (
          <g key={name}>
            <path
              d={`M${LEFT} ${y(at)}H${RIGHT}`}
              stroke={i === 1 ? "var(--color-malachite)" : "var(--color-iodine)"}
              strokeDasharray={i === 1 ? "" : "5 4"}
            />
            <text x={RIGHT + 5} y={y(at)} dy="0.32em">
              {name}
            </text>
          </g>
        ))}
        {ticks(y).map((tick) => (
          <text key={tick} x={LEFT - 7} y={y(tick)} dy="0.32em" textAnchor="end">
            {text(tick)}
          </text>
        ))}
        {ticks(x).map((tick) => (
          <text key={tick} x={x(tick)} y={BOTTOM + 16} textAnchor="middle">
            {text(tick)}
          </text>
        ))}
        <path d={`M${LEFT} ${TOP}V${BOTTOM}H${RIGHT}`} fill="none" stroke="var(--color-ink)" />
        {points.map((point, i) => (
          <circle
            key={i}
            cx={x(point.x)}
            cy={y(point.y)}
            r={3.5}
            fill="var(--color-permanganate)"
            stroke="var(--color-chalk)"
          />
        ))}
        <text x={(LEFT + RIGHT) / 2} y={BOTTOM + 34} textAnchor="middle" fill="var(--color-ink)">
          mean of the two{unit && ` / ${unit}`}
        </text>
        <text
          transform={`translate(14,${(TOP + BOTTOM) / 2}) rotate(-90)`}
          textAnchor="middle"
          fill="var(--color-ink)"
        >
          {found.ratio ? "ratio" : `difference${unit && ` / ${unit}`}`}
        </text>
      </svg>
      <figcaption className="text-sm text-graphite">{found.said}</figcaption>
    </figure>
  );
}
