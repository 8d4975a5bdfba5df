/* The two ends of a stretch of the x axis, dragged along it or moved by keys; they catch on the places there are. */
import { type KeyboardEvent, type MouseEvent, type PointerEvent, useState } from "react";
import type { XScale } from "../../plot/scales";

export interface HandlesFrame {
  x: XScale;
  top: number;
  bottom: number;
}

interface WindowEndsProps extends HandlesFrame {
  /** Rising; with fewer than three there is nothing to choose. */
  places: readonly number[];
  range: { lower: number; upper: number };
  titles: Record<End, string>;
  /** Names of the ends, where they can be reached by keys; a figure that is read as one picture has none within. */
  names?: Record<End, string>;
  /** Told both ends, and the window with null for an end that is that of the places. */
  onPut: (window: { lower: number | null; upper: number | null }, low: number, high: number) => void;
}

type End = "lower" | "upper";

export function WindowEnds({ places, range, x, top, bottom, titles, names, onPut }: WindowEndsProps) {
  const [drag, setDrag] = useState<{ end: End; at: number } | null>(null);
  const [first, last] = [places[0], places.at(-1)];
  if (first === undefined || last === undefined || places.length < 3) return null;
  const nearest = (event: PointerEvent<SVGGElement>): number => {
    const at = event.clientX - event.currentTarget.ownerSVGElement!.getBoundingClientRect().left;
    return places.reduce((best, place) => (Math.abs(x(place) - at) < Math.abs(x(best) - at) ? place : best));
  };
  const put = (end: End, at: number) => {
    const other = end === "lower" ? range.upper : range.lower;
    if (at === range[end] || at === other) return;
    const [low, high] = [Math.min(at, other), Math.max(at, other)];
    onPut({ lower: low === first ? null : low, upper: high === last ? null : high }, low, high);
  };
  const byKey = (event: KeyboardEvent<SVGGElement>, end: End) => {
    const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const now = places.findIndex((place) => place >= range[end]);
    const next = (now < 0 ? places.length - 1 : now) + by;
    put(end, places[Math.min(Math.max(next, 0), places.length - 1)]!);
  };
  return (["lower", "upper"] as const).map((end) => {
    const at = drag?.end === end ? drag.at : range[end];
    // An end beyond axes that were zoomed is not there to be taken hold of.
    if (x(at) < x.range[0] - 1 || x(at) > x.range[1] + 1) return null;
    return (
      <g
        key={end}
        data-window={end}
        {...(names && {
          role: "slider",
          tabIndex: 0,
          "aria-label": names[end],
          "aria-valuenow": at,
          "aria-valuemin": first,
          "aria-valuemax": last,
          onKeyDown: (event: KeyboardEvent<SVGGElement>) => byKey(event, end),
          onClick: (event: MouseEvent<SVGGElement>) => event.stopPropagation(),
        })}
        transform={`translate(${x(at)},0)`}
        className="cursor-ew-resize"
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
        <title>{titles[end]}</title>
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
  });
}
