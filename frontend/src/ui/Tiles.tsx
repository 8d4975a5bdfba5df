/* Thousands of tiles in rows, of which the ones in view are drawn. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useRef } from "react";
import { useSize } from "../plot/useSize";

const SLOTS = 40; // rows of tiles, more than any screen shows at once

interface TilesProps<T> {
  tiles: readonly T[];
  cell: { width: number; height: number };
  /** Tiles in a row, where the room for `fits` of them allows it; as many as fit without. */
  across?: ((fits: number) => number) | undefined;
  draw: (tile: T) => ReactNode;
}

export function Tiles<T>({ tiles, cell, across: wanted, draw }: TilesProps<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  const size = useSize(scroller);
  const fits = Math.max(1, Math.floor((size.width || 1200) / cell.width));
  const across = wanted?.(fits) ?? fits;
  const rows = useVirtualizer({
    count: Math.ceil(tiles.length / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => cell.height,
    overscan: 3,
  });
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto">
      <ul style={{ height: rows.getTotalSize() }} className="relative">
        {rows.getVirtualItems().flatMap((row) =>
          tiles.slice(row.index * across, (row.index + 1) * across).map((tile, i) => (
            <li
              // A tile that scrolls out is drawn over with the next, which costs less than a new one.
              key={`${row.index % SLOTS} ${i}`}
              className="absolute"
              style={{ transform: `translate(${i * cell.width}px, ${row.start}px)`, ...cell }}
            >
              {draw(tile)}
            </li>
          )),
        )}
      </ul>
    </div>
  );
}
