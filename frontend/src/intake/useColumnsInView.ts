/* Of a table with very many columns, those that are in view: two thousand compounds are thirty thousand cells. */
import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";

const MANY = 60; // columns up to which all are drawn, and share the room

export interface ColumnsInView {
  /** The first that is drawn, and the one after the last. */
  from: number;
  to: number;
  /** Grid columns for those drawn, with room kept for the ones before and behind. */
  template: string;
  /** Whether a cell has to stand for the columns before. */
  skips: boolean;
  /** Pixels all of them take. */
  total: number;
}

/** `before` is the room in pixels of what stands left of the columns, `width` the least room for each of `count`. */
export function useColumnsInView(
  scroller: RefObject<HTMLDivElement | null>,
  count: number,
  before: number,
  width: number,
): ColumnsInView {
  const columns = useVirtualizer({
    horizontal: true,
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => width,
    paddingStart: before,
    overscan: 6,
    enabled: count > MANY,
  });
  const total = before + count * width;
  if (count <= MANY)
    return { from: 0, to: count, template: `repeat(${count}, minmax(${width}px, 1fr))`, skips: false, total };
  const drawn = columns.getVirtualItems();
  const from = drawn[0]?.index ?? 0;
  const to = (drawn.at(-1)?.index ?? -1) + 1;
  const skips = from > 0;
  return {
    from,
    to,
    template: `${skips ? `${from * width}px ` : ""}repeat(${Math.max(to - from, 1)}, ${width}px) ${(count - to) * width}px`,
    skips,
    total,
  };
}
