/* What the pointer does to the axes: a frame drawn on the plot zooms in, a dragged axis moves, the wheel stretches. */
import type { ScaleLinear } from "d3-scale";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { XScale } from "../../plot/scales";
import { type Ends, edgesOf, type Limits, shifted, stretched, WHOLE } from "./limits";

const LEAST = 8; // px; a shorter drag is a click

interface Props {
  x: XScale;
  y: ScaleLinear<number, number>;
  log: boolean;
  limits: Limits;
  onLimits: (limits: Limits) => void;
  /** Where the x axis stands. */
  axisAt: number;
}

interface Place {
  x: number;
  y: number;
}

function placeOf(event: { clientX: number; clientY: number }, element: SVGElement): Place {
  const box = element.ownerSVGElement!.getBoundingClientRect();
  return { x: event.clientX - box.left, y: event.clientY - box.top };
}

export function ZoomPane({ x, y, log, onLimits, limits, axisAt }: Props) {
  const pane = useRef<SVGRectElement>(null);
  const [frame, setFrame] = useState<{ from: Place; to: Place } | null>(null);
  const [held, setHeld] = useState<{ axis: "x" | "y"; from: number; ends: Ends } | null>(null);
  const [left, right] = x.range;
  const [bottom, top] = edgesOf(y.range());
  // On a log axis with a broken stretch for zero, what is stretched begins beyond the break.
  const first = x.gap ? x.gap[1] + 6 : left;
  const xEnds: Ends = [x.invert(first), x.invert(right)];
  const yEnds = edgesOf(y.domain());
  const keepZero = (ends: Ends): Ends => (x.gap && ends[0] <= xEnds[0] * 1.0001 ? [0, ends[1]] : ends);

  useEffect(() => {
    const element = pane.current!;
    const drawing = element.ownerSVGElement!;
    const onWheel = (event: WheelEvent) => {
      const at = placeOf(event, element);
      if (at.x < left || at.y > bottom) return;
      event.preventDefault();
      const by = event.deltaY < 0 ? 0.2 : -0.25;
      onLimits({
        x: keepZero(stretched(xEnds, by, Math.max((at.x - first) / (right - first), 0), log)),
        y: stretched(yEnds, by, (bottom - at.y) / (bottom - top), false),
      });
    };
    // React's own wheel listener is passive and could not keep the page from scrolling.
    drawing.addEventListener("wheel", onWheel, { passive: false });
    return () => drawing.removeEventListener("wheel", onWheel);
  });

  const drawn = (event: PointerEvent<SVGRectElement>) => {
    if (frame) setFrame({ ...frame, to: placeOf(event, event.currentTarget) });
  };
  const zoom = () => {
    if (!frame) return;
    setFrame(null);
    const [x0, x1] = [Math.min(frame.from.x, frame.to.x), Math.max(frame.from.x, frame.to.x)];
    const [y0, y1] = [Math.min(frame.from.y, frame.to.y), Math.max(frame.from.y, frame.to.y)];
    if (x1 - x0 < LEAST || y1 - y0 < LEAST) return;
    onLimits({
      x:
        x.gap && x0 < x.gap[1]
          ? [0, x.invert(x1)]
          : [x.invert(Math.max(x0, left)), x.invert(Math.min(x1, right))],
      y: [y.invert(Math.min(y1, bottom)), y.invert(Math.max(y0, top))],
    });
  };
  const axis = (which: "x" | "y") => ({
    onPointerDown: (event: PointerEvent<SVGRectElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      const at = placeOf(event, event.currentTarget);
      setHeld({ axis: which, from: at[which], ends: which === "x" ? xEnds : yEnds });
    },
    onPointerMove: (event: PointerEvent<SVGRectElement>) => {
      if (held?.axis !== which) return;
      const at = placeOf(event, event.currentTarget);
      if (which === "x") {
        const ends = shifted(held.ends, (held.from - at.x) / (right - first), log);
        onLimits({ ...limits, x: keepZero(ends) });
      } else onLimits({ ...limits, y: shifted(held.ends, (at.y - held.from) / (bottom - top), false) });
    },
    onPointerUp: () => setHeld(null),
    onPointerCancel: () => setHeld(null),
    onDoubleClick: () => onLimits({ ...limits, [which]: null }),
  });
  return (
    <g>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: by key the limits are typed under “Axes” */}
      <rect
        ref={pane}
        data-zoom="plot"
        x={left}
        y={top}
        width={right - left}
        height={Math.max(bottom - top, 0)}
        fill="transparent"
        className="cursor-crosshair"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          const at = placeOf(event, event.currentTarget);
          setFrame({ from: at, to: at });
        }}
        onPointerMove={drawn}
        onPointerUp={zoom}
        onPointerCancel={() => setFrame(null)}
        onDoubleClick={() => onLimits(WHOLE)}
      >
        <title>Draw a frame to zoom in; double click for the whole</title>
      </rect>
      <rect
        data-zoom="x"
        x={left}
        y={axisAt}
        width={right - left}
        height={24}
        fill="transparent"
        className="cursor-ew-resize"
        {...axis("x")}
      />
      <rect
        data-zoom="y"
        x={left - 40}
        y={top}
        width={40}
        height={Math.max(bottom - top, 0)}
        fill="transparent"
        className="cursor-ns-resize"
        {...axis("y")}
      />
      {frame && (
        <rect
          x={Math.min(frame.from.x, frame.to.x)}
          y={Math.min(frame.from.y, frame.to.y)}
          width={Math.abs(frame.to.x - frame.from.x)}
          height={Math.abs(frame.to.y - frame.from.y)}
          fill="var(--color-permanganate-tint)"
          fillOpacity={0.5}
          stroke="var(--color-permanganate)"
          pointerEvents="none"
        />
      )}
    </g>
  );
}
