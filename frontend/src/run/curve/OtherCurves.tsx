/* The curves of the other plates or series, in the same axes, quieter than the one looked at. */
import type { ScaleLinear } from "d3-scale";
import type { Curve } from "../../api/schema";
import { polyline } from "../../plot/path";
import type { XScale } from "../../plot/scales";
import { markPath } from "../../ui/RoleMark";

const DASHES = ["6 3", "2 3", "9 3 2 3", "12 4"]; // told apart without color

interface Props {
  curves: readonly Curve[];
  curve: Curve;
  x: XScale;
  y: ScaleLinear<number, number>;
  log: boolean;
  onChoose: (key: string) => void;
}

export function OtherCurves({ curves, curve, x, y, log, onChoose }: Props) {
  return (
    <g clipPath="url(#inside-plot)">
      {curves.map((each, i) => {
        if (each.key === curve.key) return null;
        const at = each.line.x.flatMap((value, k) => (log && value <= 0 ? [] : [k]));
        const line = polyline(
          at.map((k) => x(each.line.x[k]!)),
          at.map((k) => y(each.line.y[k]!)),
        );
        const last = at.at(-1);
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: by key another curve is chosen above the figure
          <g
            key={each.key}
            data-curve={each.key}
            className="cursor-pointer"
            onClick={() => onChoose(each.key ?? "")}
          >
            <title>{each.key}: look at this curve</title>
            <path d={line} fill="none" stroke="transparent" strokeWidth={9} />
            <path
              d={line}
              fill="none"
              stroke="var(--color-graphite)"
              strokeWidth={1.2}
              strokeDasharray={DASHES[i % DASHES.length]}
            />
            {each.points.map((point) => (
              <path
                key={point.reading}
                d={markPath("standard", 3)}
                transform={`translate(${x(point.x)},${y(point.y)})`}
                fill="none"
                stroke="var(--color-graphite)"
                strokeOpacity={0.7}
              />
            ))}
            {last !== undefined && (
              <text
                x={Math.min(x(each.line.x[last]!) - 6, x.range[1] - 6)}
                y={Math.max(y(each.line.y[last]!) - 6, (y.range()[1] ?? 0) + 12)}
                textAnchor="end"
                fontSize={12}
                fill="var(--color-graphite)"
              >
                {each.key}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}
