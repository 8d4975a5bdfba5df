/* The two ends of the window over which rates are taken: dragged along the axis, they catch on the times. */
import { type KeyboardEvent, type PointerEvent, useState } from "react";
import type { Curve } from "../../../api/schema";
import type { XScale } from "../../../plot/scales";
import { useOpenRun } from "../../state/open";
import { useStep } from "../../working/fields";

interface Props {
  curve: Curve;
  x: XScale;
  top: number;
  bottom: number;
}

type End = "lower" | "upper";

export function CourseWindow({ curve, x, top, bottom }: Props) {
  const { view } = useOpenRun();
  const { step, set } = useStep("course");
  const [drag, setDrag] = useState<{ end: End; at: number } | null>(null);
  const { part } = view.revision.outcome;
  const times = [...new Set(curve.points.map((point) => point.x))];
  const [first, last] = [times[0], times.at(-1)];
  if (part.kind !== "rate" || first === undefined || last === undefined || times.length < 3) return null;
  const window = { lower: part.lower ?? first, upper: part.upper ?? last };
  const nearest = (event: PointerEvent<SVGGElement>): number => {
    const at = event.clientX - event.currentTarget.ownerSVGElement!.getBoundingClientRect().left;
    return times.reduce((best, time) => (Math.abs(x(time) - at) < Math.abs(x(best) - at) ? time : best));
  };
  const put = (end: End, at: number) => {
    const other = end === "lower" ? window.upper : window.lower;
    if (at === window[end] || at === other) return;
    const [low, high] = [Math.min(at, other), Math.max(at, other)];
    const next = { lower: low === first ? null : low, upper: high === last ? null : high };
    const whole = next.lower === null && next.upper === null;
    set(
      { window: next, propose: false, leave_out: { ...step.leave_out, first: 0, last: 0 } },
      `Course: ${whole ? "all of it" : `${low} to ${high}`}`,
    );
  };
  const byKey = (event: KeyboardEvent<SVGGElement>, end: End) => {
    const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const now = times.findIndex((time) => time >= window[end]);
    const next = times[Math.min(Math.max((now < 0 ? times.length - 1 : now) + by, 0), times.length - 1)]!;
    put(end, next);
  };
  return (
    <>
      {(["lower", "upper"] as const).map((end) => {
        const at = drag?.end === end ? drag.at : window[end];
        // An end beyond axes that were zoomed is not there to be taken hold of.
        if (x(at) < x.range[0] - 1 || x(at) > x.range[1] + 1) return null;
        return (
          <g
            key={end}
            data-window={end}
            role="slider"
            tabIndex={0}
            aria-label={end === "lower" ? "Start of the window" : "End of the window"}
            aria-valuenow={at}
            aria-valuemin={first}
            aria-valuemax={last}
            transform={`translate(${x(at)},0)`}
            className="cursor-ew-resize"
            onKeyDown={(event) => byKey(event, end)}
            onClick={(event) => event.stopPropagation()}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setDrag({ end, at });
            }}
            onPointerMove={(event) => drag?.end === end && setDrag({ end, at: nearest(event) })}
            onPointerUp={() => {
              if (drag) put(drag.end, drag.at);
              setDrag(null);
            }}
            onPointerCancel={() => setDrag(null)}
          >
            <title>
              {end === "lower" ? "Start" : "End"} of the window, for all courses; drag or use the arrows
            </title>
            <rect x={-6} y={top} width={12} height={bottom - top} fill="transparent" />
            <path
              d={`M0 ${top}V${bottom}`}
              stroke="var(--color-malachite)"
              strokeOpacity={drag?.end === end ? 1 : 0.45}
              strokeDasharray={drag?.end === end ? undefined : "2 3"}
            />
            <path
              d={`M0 ${top}h${end === "lower" ? 10 : -10}l${end === "lower" ? -10 : 10} 10z`}
              fill="var(--color-malachite)"
            />
          </g>
        );
      })}
    </>
  );
}
