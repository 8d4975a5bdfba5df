/* Excluding readings asks for the reason first; including them again does not. */
import { useCallback, useState } from "react";
import { toast } from "sonner";
import type { RunView } from "../../api/schema";
import type { OpenRun } from "./open";

export function useExcluding(view: RunView, excluded: OpenRun["excluded"], act: OpenRun["act"]) {
  const [excluding, setExcluding] = useState<readonly number[] | null>(null);
  const { layout } = view.revision;
  const exclude = useCallback(
    (ids: readonly number[]) => {
      const laid = ids.filter((id) => layout.groups.some((group) => group.readings.includes(id)));
      if (laid.length === 0) {
        if (ids.length > 0)
          toast.message(
            ids.length === 1
              ? "This well has no role, so no curve uses it and there is nothing to exclude."
              : `These ${ids.length} wells have no role, so no curve uses them and there is nothing to exclude.`,
          );
        return;
      }
      if (laid.every((id) => excluded.has(id))) {
        const words = `Include ${laid.length === 1 ? "the reading" : `${laid.length} readings`} again`;
        act({ kind: "change", changes: [{ kind: "include", readings: laid }], words });
      } else {
        setExcluding(laid);
      }
    },
    [act, excluded, layout],
  );
  const stopExcluding = useCallback(() => setExcluding(null), []);
  return { exclude, excluding, stopExcluding };
}

/** The readings of what is selected: one, or all of a group. */
export function readingsOf(
  groups: OpenRun["groups"],
  group: string,
  reading: number | null,
): readonly number[] {
  return reading === null ? (groups.get(group)?.readings ?? []) : [reading];
}
