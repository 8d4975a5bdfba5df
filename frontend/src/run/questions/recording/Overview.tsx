/* The whole recording in little, with the stretch of it that is seen; dragged to see another. */
import { type PointerEvent, useState } from "react";
import { polyline } from "../../../plot/path";
import type { XScale } from "../../../plot/scales";
import { moved, type Window } from "./view";

interface Props {
  x: XScale;
  top: number;
  height: number;
  line: { x: readonly number[]; y: readonly number[] } | undefined;
  window: Window;
  onWindow: (window: Window) => void;
}

export function Overview({ x, top, height, line, window, onWindow }: Props) {
  const [held, setHeld] = useState<number | null>(null);
  const [low, high] = line ? [Math.min(...line.y), Math.max(...line.y)] : [0, 1];
  const y = (value: number) => top + height - 3 - ((value - low) / (high - low || 1)) * (height - 6);
  const at = (event: PointerEvent<SVGGElement>) =>
    x.invert(event.clientX - event.currentTarget.ownerSVGElement!.getBoundingClientRect().left);
  return (
    <g
      data-overview=""
      className="cursor-ew-resize"
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        const time = at(event);
        const inside = time >= window.from && time <= window.to;
        if (!inside) onWindow(moved(window, time - (window.from + window.to) / 2));
        setHeld(time);
      }}
      onPointerMove={(event) => {
        if (held === null) return;
        const time = at(event);
        onWindow(moved(window, time - held));
        setHeld(time);
      }}
      onPointerUp={() => setHeld(null)}
      onPointerCancel={() => setHeld(null)}
    >
      <title>The whole recording; drag to see another part</title>
      <rect
        x={x.range[0]}
        y={top}
        width={x.range[1] - x.range[0]}
        height={height}
        fill="var(--color-paper)"
        stroke="var(--color-rule)"
      />
      {line && (
        <path
          d={polyline(line.x.map(x), line.y.map(y))}
          fill="none"
          stroke="var(--color-graphite)"
          strokeWidth={0.8}
        />
      )}
      <rect
        data-seen=""
        x={x(window.from)}
        y={top}
        width={Math.max(x(window.to) - x(window.from), 2)}
        height={height}
        fill="var(--color-permanganate)"
        fillOpacity={0.14}
        stroke="var(--color-permanganate)"
      />
    </g>
  );
}
