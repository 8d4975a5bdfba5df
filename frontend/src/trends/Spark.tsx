/* A number over the runs as a small line. */
import { scaleLinear } from "d3-scale";

const WIDTH = 92;
const HEIGHT = 26;

export function Spark({ values }: { values: readonly number[] }) {
  const x = scaleLinear([0, Math.max(1, values.length - 1)], [1, WIDTH - 1]);
  const y = scaleLinear([Math.min(...values), Math.max(...values)], [HEIGHT - 3, 3]);
  const path = values.map((value, i) => `${i === 0 ? "M" : "L"}${x(i).toFixed(1)} ${y(value).toFixed(1)}`);
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden className="shrink-0">
      <path d={path.join("")} fill="none" stroke="var(--color-graphite)" />
    </svg>
  );
}
