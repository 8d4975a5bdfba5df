/* What is selected: a group or one of its readings, any wells, or a number whose working is looked at. */
import { createContext, useCallback, useContext, useMemo, useState } from "react";
import type { RunView } from "../../api/schema";
import type { Curves } from "./curves";
import { curveOf } from "./curves";
import type { OpenRun } from "./open";

export interface Selection {
  group: string;
  /** One reading of the group, or null for all of them. */
  reading: number | null;
  /** Of a reading that is a course, one of its points, by its place on the axis. */
  at?: number | null;
}

export interface Numbered {
  id: string;
  title: string;
  /** The row of the answers that it is of, where it is one. */
  answer?: string;
}

export interface Selected {
  selection: Selection | null;
  select: (selection: Selection | null) => void;
  /** The wells selected on a plate: those of the selection, or any a person dragged over. */
  wells: ReadonlySet<number>;
  chooseWells: (ids: readonly number[]) => void;
  /** A number that belongs to no group, whose working is shown: a parameter, a limit, a check. */
  number: Numbered | null;
  showNumber: (number: Numbered) => void;
}

export const SelectionContext = createContext<Selected | null>(null);

export function useSelection(): Selected {
  const selected = useContext(SelectionContext);
  if (!selected) throw new Error("This part belongs inside a run.");
  return selected;
}

const NOTHING: ReadonlySet<number> = new Set();

export function useSelectionIn(
  view: RunView,
  groups: OpenRun["groups"],
  chooseCurve: Curves["chooseCurve"],
): Selected {
  const [selection, setSelection] = useState<Selection | null>(null);
  const [wells, setWells] = useState<ReadonlySet<number>>(NOTHING);
  const [number, showNumber] = useState<Numbered | null>(null);
  const select = useCallback(
    (next: Selection | null) => {
      const group = next && groups.get(next.group);
      setSelection(next);
      showNumber(null);
      const { curves } = view.revision.outcome;
      const its = group && curves.length > 1 && curveOf(view, group, next.reading);
      if (its) chooseCurve(its.key ?? "");
      setWells(!group ? NOTHING : new Set(next.reading === null ? group.readings : [next.reading]));
    },
    [groups, view, chooseCurve],
  );
  const chooseWells = useCallback(
    (ids: readonly number[]) => {
      setWells(new Set(ids));
      const first = view.revision.layout.groups.find((group) => group.readings.includes(ids[0]!));
      const one = first !== undefined && ids.every((id) => first.readings.includes(id));
      setSelection(one ? { group: first.id, reading: ids.length === 1 ? ids[0]! : null } : null);
      // A well that is a course by itself is looked at.
      if (ids.length === 1 && first && view.readings.axis) {
        const its = curveOf(view, first, ids[0]!);
        if (its) chooseCurve(its.key ?? "");
      }
    },
    [view, chooseCurve],
  );
  return useMemo(
    () => ({ selection, select, wells, chooseWells, number, showNumber }),
    [selection, select, wells, chooseWells, number],
  );
}
