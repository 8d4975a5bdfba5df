/* The residuals below the figure; one far beyond the others is an arrow at the edge with its size. */
import type { Curve, Point } from "../../api/schema";
import { YAxis } from "../../plot/Axis";
import { useSelection } from "../state/selection";
import { RESIDUAL_LABELS, type Residuals } from "./choices";
import { StandardMark } from "./marks";
import { LEFT, type Plot, RIGHT, type Strip } from "./plot";

interface Props {
  curve: Curve;
  points: readonly Point[];
  kind: Residuals;
  plot: Plot;
  strip: Strip;
}

export function ResidualStrip({ curve, points, kind, plot: { x, width, floor }, strip }: Props) {
  const { selection, select } = useSelection();
  const { r, residual, reach, top } = strip;
  return (
    <g>
      <YAxis scale={r} at={LEFT} reach={0} count={3} />
      <path d={`M${LEFT} ${r(0)}H${width - RIGHT}`} stroke="var(--color-graphite)" strokeDasharray="3 3" />
      {points.map((point) => {
        if (point.residual == null) return null;
        const size = residual(point);
        return Math.abs(size) > reach ? (
          <g key={point.reading} transform={`translate(${x(point.x)},${size > 0 ? top : floor})`}>
            <title>{`Residual ${size.toPrecision(3)}, beyond this strip`}</title>
            <path d={size > 0 ? "M0 1L4 8H-4Z" : "M0 -1L4 -8H-4Z"} fill="var(--color-cinnabar)" />
            <text x={6} y={size > 0 ? 9 : -2} fontSize={11} fill="var(--color-cinnabar)">
              {Number(size.toPrecision(2)).toString().replace("-", "−")}
            </text>
          </g>
        ) : (
          <StandardMark
            key={point.reading}
            point={point}
            cx={x(point.x)}
            cy={r(size)}
            small
            chosen={selection?.group === point.group}
            focused={selection?.reading === point.reading}
            onSelect={() => select({ group: point.group, reading: point.reading })}
          />
        );
      })}
      <text
        transform={`translate(${LEFT - 46},${(top + floor) / 2}) rotate(-90)`}
        textAnchor="middle"
        fontSize={12}
        fill="var(--color-graphite)"
      >
        {curve.turned && kind === "raw" ? "residual of x" : RESIDUAL_LABELS[kind]}
      </text>
    </g>
  );
}
