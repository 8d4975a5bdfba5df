/* Excluding readings asks for the reason first; including them again does not. */
import { useCallback, useState } from "react";
import { toast } from "sonner";
import type { RunView } from "../../api/schema";
import type { OpenRun } from "./open";

/** What a reason is asked for: readings, or the point at a place of the axis of one that is a course. */
export interface Excluding {
  readings: readonly number[];
  at: number | null;
}

export function useExcluding(view: RunView, excluded: OpenRun["excluded"], act: OpenRun["act"]) {
  const [excluding, setExcluding] = useState<Excluding | null>(null);
  const { layout } = view.revision;
  const exclude = useCallback(
    (ids: readonly number[], at: number | null = null) => {
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
      const reading = laid[0]!;
      if (at !== null && laid.length === 1) {
        const out = (layout.exclusions ?? []).some((each) => each.reading === reading && each.at === at);
        if (!out) setExcluding({ readings: laid, at });
        else
          act({
            kind: "change",
            changes: [{ kind: "include_points", points: [{ reading, at }] }],
            words: "Include the point again",
          });
        return;
      }
      if (laid.every((id) => excluded.has(id))) {
        const words = `Include ${laid.length === 1 ? "the reading" : `${laid.length} readings`} again`;
        act({ kind: "change", changes: [{ kind: "include", readings: laid }], words });
      } else {
        setExcluding({ readings: laid, at: null });
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
