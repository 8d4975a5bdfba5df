/* Keys of the Work view: undo and redo, exclude, assign, and nothing selected. */
import { useLayoutEffect } from "react";
import type { Shape } from "./Columns";
import type { OpenRun } from "./state/open";
import type { Selected } from "./state/selection";

interface Keys extends Pick<OpenRun, "act" | "exclude" | "assign"> {
  selected: Selected;
  shape: Shape;
}

export function useRunKeys({ selected, shape, act, exclude, assign }: Keys): void {
  const { selection, wells, select } = selected;
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, textarea, [role=dialog], [role=listbox], [role=menu]")) return;
      const key = event.key.toLowerCase();
      if (event.ctrlKey || event.metaKey) {
        if (key === "z" && !event.shiftKey) act({ kind: "undo" });
        else if (key === "y" || (key === "z" && event.shiftKey)) act({ kind: "redo" });
        else return;
        event.preventDefault();
        return;
      }
      if (event.altKey || (!selection && wells.size === 0)) return;
      if (key === "x") exclude([...wells], selection?.at);
      else if (key === "a" && shape === "list" && selection) assign(selection.group);
      else if (event.key === "Escape") select(null);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [selection, wells, shape, select, act, exclude, assign]);
}
