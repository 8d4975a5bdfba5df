/* The mean response at each dose with its bar, and the half-effect dose dropped to the axis. */
import type { ScaleLinear } from "d3-scale";
import type { Curve } from "../../api/schema";
import type { XScale } from "../../plot/scales";
import { markPath } from "../../ui/RoleMark";
import type { Bars } from "./choices";
import { edgesOf } from "./limits";

interface Props {
  curve: Curve;
  x: XScale;
  y: ScaleLinear<number, number>;
  bars: Bars;
  color: string;
  log: boolean;
  quiet?: boolean;
  onHover?: (dose: number | null) => void;
  onSelect?: (dose: number) => void;
}

export function MeanMarks({ curve, x, y, bars, color, log, quiet = false, onHover, onSelect }: Props) {
  const [bottom] = edgesOf(y.range());
  return (
    <g pointerEvents={onSelect ? "auto" : "none"} clipPath="url(#inside-plot)" opacity={quiet ? 0.75 : 1}>
      {(curve.means ?? []).map((mean) => {
        const [low, high] = endsOf(mean, bars);
        return (
          <g key={mean.x} transform={`translate(${x(mean.x)},0)`}>
            {low !== null && (
              <path
                d={`M0 ${y(low)}V${y(high)}M-4 ${y(low)}h8M-4 ${y(high)}h8`}
                stroke={color}
                strokeWidth={1.2}
                fill="none"
              />
            )}
            {/* biome-ignore lint/a11y/noStaticElementInteractions: by key the list and the plate select the same */}
            <path
              d={markPath("dose", quiet ? 3.4 : 4.4)}
              transform={`translate(0,${y(mean.y)})`}
              className={onSelect ? "cursor-pointer" : undefined}
              onPointerEnter={() => onHover?.(mean.x)}
              onPointerLeave={() => onHover?.(null)}
              onClick={() => onSelect?.(mean.x)}
              fill={quiet ? "var(--color-chalk)" : color}
              stroke={color}
              strokeWidth={1.3}
            />
          </g>
        );
      })}
      {!quiet &&
        (curve.marks ?? []).map((mark) => (
          <path
            key={`${mark.x} ${mark.y}`}
            d={`M${x(mark.x)} ${y(mark.y)}V${bottom}`}
            stroke={color}
            strokeDasharray="5 3"
            fill="none"
          />
        ))}
      {/* The curve at no dose has no place on the logarithm; it is a short stretch of its own. */}
      {log && x.gap && curve.line.x[0] === 0 && (
        <path
          d={`M${x(0) - 7} ${y(curve.line.y[0]!)}h14`}
          stroke={color}
          strokeWidth={quiet ? 1.2 : 2}
          fill="none"
        />
      )}
    </g>
  );
}

function endsOf(mean: NonNullable<Curve["means"]>[number], bars: Bars): [number, number] | [null, null] {
  if (bars === "interval")
    return mean.lower == null || mean.upper == null ? [null, null] : [mean.lower, mean.upper];
  const half = bars === "none" ? null : mean[bars];
  return half == null ? [null, null] : [mean.y - half, mean.y + half];
}
