/* The two ends of the range of standards in the fit: dragged along the axis, they catch on the levels. */

import { type PointerEvent, useState } from "react";
import type { Curve } from "../../api/schema";
import type { XScale } from "../../plot/scales";
import { stepOf, useOpenRun } from "../state/open";

interface Props {
  curve: Curve;
  x: XScale;
  top: number;
  bottom: number;
}

type End = "lower" | "upper";

export function WindowHandles({ curve, x, top, bottom }: Props) {
  const { view, act } = useOpenRun();
  const step = stepOf(view, "curve");
  const [drag, setDrag] = useState<{ end: End; level: number } | null>(null);
  const range = curve.range;
  if (!range || curve.levels.length < 3) return null;
  const nearest = (event: PointerEvent<SVGGElement>): number => {
    const at = event.clientX - event.currentTarget.ownerSVGElement!.getBoundingClientRect().left;
    return curve.levels.reduce((best, level) =>
      Math.abs(x(level) - at) < Math.abs(x(best) - at) ? level : best,
    );
  };
  const drop = () => {
    if (!drag) return;
    setDrag(null);
    const other = drag.end === "lower" ? range.upper : range.lower;
    if (drag.level === range[drag.end] || drag.level === other) return;
    const [low, high] = [Math.min(drag.level, other), Math.max(drag.level, other)];
    const window = {
      lower: low === curve.levels[0] ? null : low,
      upper: high === curve.levels.at(-1) ? null : high,
    };
    act({
      kind: "change",
      changes: [{ kind: "set_step", step: { ...step, window, leave_out: { lowest: 0, highest: 0 } } }],
      words: `Curve: standards ${low} to ${high}`,
    });
  };
  return (["lower", "upper"] as const).map((end) => {
    const level = drag?.end === end ? drag.level : range[end];
    // An end beyond axes that were zoomed is not there to be taken hold of.
    if (x(level) < x.range[0] - 1 || x(level) > x.range[1] + 1) return null;
    return (
      <g
        key={end}
        data-window={end}
        transform={`translate(${x(level)},0)`}
        className="cursor-ew-resize"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ end, level });
        }}
        onPointerMove={(event) => drag?.end === end && setDrag({ end, level: nearest(event) })}
        onPointerUp={drop}
        onPointerCancel={() => setDrag(null)}
      >
        <title>{end === "lower" ? "Lowest" : "Highest"} standard in the fit; drag to another</title>
        <rect x={-6} y={top} width={12} height={bottom - top} fill="transparent" />
        <path
          d={`M0 ${top}V${bottom}`}
          stroke="var(--color-malachite)"
          strokeOpacity={drag?.end === end ? 1 : 0.35}
          strokeDasharray={drag?.end === end ? undefined : "2 3"}
        />
        <path
          d={`M0 ${top}h${end === "lower" ? 9 : -9}l${end === "lower" ? -9 : 9} 9z`}
          fill="var(--color-malachite)"
        />
      </g>
    );
  });
}
