/* Selecting wells: by drag, by headings, with Shift and Ctrl, and with the keyboard. */
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Reading } from "../../api/schema";
import { MOVES } from "../../ui/moves";
import { between, type Spot } from "./geometry";

interface Props {
  wells: readonly Reading[];
  rows: number;
  columns: number;
  chosen: ReadonlySet<number>;
  choose: (ids: readonly number[]) => void;
  /** The well that arrows move from. */
  focus: Spot;
  setFocus: (spot: Spot) => void;
}

/** The well, row or column under the pointer, from the marks the plate's parts carry. */
function partOf(event: PointerEvent): { from: Spot; to: Spot } | null {
  const part = (event.target as HTMLElement).closest<HTMLElement>("[data-part]")?.dataset.part;
  if (!part) return null;
  const [row, column] = part.split(":").map((n) => (n === "" ? null : Number(n)));
  return {
    from: { row: row ?? 0, column: column ?? 0 },
    to: { row: row ?? 99, column: column ?? 99 },
  };
}

export function usePlateKeys({ wells, rows, columns, chosen, choose, focus, setFocus }: Props) {
  const anchor = useRef<{ spot: Spot; kept: readonly number[] } | null>(null);
  const dragging = useRef(false);

  const take = (from: Spot, to: Spot, kept: readonly number[], toggle = false) => {
    const ids = between(wells, from, to);
    const all = toggle && ids.every((id) => kept.includes(id));
    choose(all ? kept.filter((id) => !ids.includes(id)) : [...new Set([...kept, ...ids])]);
  };
  const within = (spot: Spot): Spot => ({
    row: Math.min(Math.max(spot.row, 0), rows - 1),
    column: Math.min(Math.max(spot.column, 0), columns - 1),
  });

  return {
    onPointerDown: (event: PointerEvent) => {
      const part = partOf(event);
      if (!part || event.button !== 0) return;
      const more = event.ctrlKey || event.metaKey;
      const kept = more ? [...chosen] : [];
      if (event.shiftKey && anchor.current) {
        take(anchor.current.spot, part.to, anchor.current.kept);
        return;
      }
      anchor.current = { spot: part.from, kept };
      dragging.current = true;
      setFocus(within(part.from));
      take(part.from, part.to, kept, more);
    },
    onPointerOver: (event: PointerEvent) => {
      if (!dragging.current || !anchor.current) return;
      if (event.buttons === 0) {
        dragging.current = false;
        return;
      }
      const part = partOf(event);
      if (part) take(anchor.current.spot, part.to, anchor.current.kept);
    },
    onPointerUp: () => {
      dragging.current = false;
    },
    onKeyDown: (event: KeyboardEvent) => {
      const move = MOVES[event.key];
      if (move) {
        const far = event.ctrlKey || event.metaKey ? 99 : 1;
        const next = within({ row: focus.row + move[0] * far, column: focus.column + move[1] * far });
        setFocus(next);
        if (event.shiftKey) {
          anchor.current ??= { spot: focus, kept: [] };
          take(anchor.current.spot, next, anchor.current.kept);
        } else {
          anchor.current = { spot: next, kept: [] };
          take(next, next, []);
        }
      } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "a") {
        take({ row: 0, column: 0 }, { row: rows, column: columns }, []);
      } else if (event.key === " ") {
        take(focus, focus, [...chosen], true);
      } else return;
      event.preventDefault();
      event.stopPropagation();
    },
  };
}
