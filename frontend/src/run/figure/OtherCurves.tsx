/* The curves of the other plates or series, in the same axes, quieter than the one looked at. */
import type { ScaleLinear } from "d3-scale";
import type { Curve } from "../../api/schema";
import { polyline } from "../../plot/path";
import type { XScale } from "../../plot/scales";
import { markPath } from "../../ui/RoleMark";
import { type Bars, SERIES } from "./choices";
import { MeanMarks } from "./MeanMarks";

const DASHES = ["6 3", "2 3", "9 3 2 3", "12 4"]; // told apart without color

const NAMED = 8; // curves up to which each has its color and its points
const MANY = 200; // curves from which they are drawn in sheaves: nobody can point at one of them
const SHEAVES = 24;

interface Props {
  curves: readonly Curve[];
  curve: Curve;
  x: XScale;
  y: ScaleLinear<number, number>;
  log: boolean;
  bars: Bars;
  onChoose: (key: string) => void;
}

export function OtherCurves({ curves, curve, x, y, log, bars, onChoose }: Props) {
  const lineOf = (each: Curve) => {
    const at = each.line.x.flatMap((value, k) => (log && value <= 0 ? [] : [k]));
    return polyline(
      at.map((k) => x(each.line.x[k]!)),
      at.map((k) => y(each.line.y[k]!)),
    );
  };
  if (curves.length > MANY)
    return (
      <g clipPath="url(#inside-plot)" fill="none" stroke="var(--color-graphite)" strokeOpacity={0.1}>
        {Array.from({ length: SHEAVES }, (_, sheaf) => (
          <path
            key={sheaf}
            strokeWidth={0.8}
            d={curves
              .filter((each, i) => i % SHEAVES === sheaf && each.key !== curve.key)
              .map(lineOf)
              .join("")}
          />
        ))}
      </g>
    );
  return (
    <g clipPath="url(#inside-plot)">
      {curves.map((each, i) => {
        if (each.key === curve.key) return null;
        const doses = (each.means ?? []).length > 0;
        const few = curves.length <= NAMED;
        const color = doses && few ? SERIES[i % SERIES.length]! : "var(--color-graphite)";
        const line = lineOf(each);
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
              stroke={color}
              strokeWidth={few ? 1.2 : 0.8}
              strokeOpacity={few ? 1 : 0.3}
              strokeDasharray={few ? DASHES[i % DASHES.length] : undefined}
            />
            {doses && few && <MeanMarks curve={each} x={x} y={y} bars={bars} color={color} log={log} quiet />}
            {(doses || !few ? [] : each.points).map((point) => (
              <path
                key={point.reading}
                d={markPath("standard", 3)}
                transform={`translate(${x(point.x)},${y(point.y)})`}
                fill="none"
                stroke="var(--color-graphite)"
                strokeOpacity={0.7}
              />
            ))}
          </g>
        );
      })}
    </g>
  );
}
