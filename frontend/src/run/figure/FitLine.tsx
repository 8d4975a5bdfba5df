/* The fitted curve with its band: solid where standards or doses hold it, dashed beyond. */
import type { Curve } from "../../api/schema";
import { polyline, ribbon } from "../../plot/path";
import type { Band } from "./choices";
import { type Plot, TOP } from "./plot";

interface Props {
  curve: Curve;
  plot: Plot;
  band: Band | null;
  color: string;
}

export function FitLine({ curve, plot: { x, y, log, bottom }, band, color }: Props) {
  const drawn = curve.line.x.flatMap((at, i) => (log && at <= 0 ? [] : [i]));
  const xs = drawn.map((i) => x(curve.line.x[i]!));
  const at = (values: readonly number[]) => (values.length ? drawn.map((i) => y(values[i]!)) : []);
  const line = polyline(xs, at(curve.line.y));
  const [low, high] =
    band === "reading"
      ? [curve.line.one_lower ?? [], curve.line.one_upper ?? []]
      : [curve.line.lower, curve.line.upper];
  return (
    <>
      {curve.range && (
        <clipPath id="inside-range">
          <rect
            x={x(curve.range.lower) - 1}
            y={TOP}
            width={Math.max(x(curve.range.upper) - x(curve.range.lower), 0) + 2}
            height={Math.max(bottom - TOP, 0)}
          />
        </clipPath>
      )}
      {band && (
        <path
          d={ribbon(xs, at(low), at(high))}
          fill={color}
          fillOpacity={0.14}
          clipPath="url(#inside-plot)"
          pointerEvents="none"
        />
      )}
      <g clipPath="url(#inside-plot)" pointerEvents="none">
        <path d={line} fill="none" stroke={color} strokeOpacity={0.65} strokeDasharray="4 4" />
        <path d={line} fill="none" stroke={color} strokeWidth={2} clipPath="url(#inside-range)" />
      </g>
    </>
  );
}
