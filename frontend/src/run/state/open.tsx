/* The run that is open, looked up by what its parts ask for, and how to act on it. It is new with every revision. */
import { createContext, useContext, useMemo } from "react";
import type { Group, Reading, ReadingOutcome, RunView } from "../../api/schema";
import type { Room } from "../questions/room";
import type { Tab } from "../RunBar";
import type { Action } from "./useActions";

export interface OpenRun {
  view: RunView;
  room: Room;
  groups: ReadonlyMap<string, Group>;
  readings: ReadonlyMap<number, Reading>;
  outcomes: ReadonlyMap<number, ReadingOutcome>;
  excluded: ReadonlyMap<number, string>;
  act: (action: Action) => void;
  /** Exclude readings, or one point of a course (asking for the reason), or include them again when all are excluded. */
  exclude: (readings: readonly number[], at?: number | null) => void;
  /** Show another view of the run. */
  show: (tab: Tab) => void;
  /** Say what a group is. */
  assign: (group: string) => void;
}

export const OpenRunContext = createContext<OpenRun | null>(null);

export function useOpenRun(): OpenRun {
  const open = useContext(OpenRunContext);
  if (!open) throw new Error("This part belongs inside a run.");
  return open;
}

/** The maps of a run, each made anew only when its part of the run is. */
export function useLookups(view: RunView) {
  const { layout, outcome } = view.revision;
  const groups = useMemo(() => new Map(layout.groups.map((g) => [g.id, g])), [layout]);
  const readings = useMemo(() => new Map(view.readings.readings.map((r) => [r.id, r])), [view.readings]);
  const outcomes = useMemo(() => new Map(outcome.readings.map((r) => [r.id, r])), [outcome]);
  const excluded = useMemo(
    () => new Map((layout.exclusions ?? []).filter((e) => e.at == null).map((e) => [e.reading, e.reason])),
    [layout],
  );
  return useMemo(() => ({ groups, readings, outcomes, excluded }), [groups, readings, outcomes, excluded]);
}

type Step = RunView["revision"]["method"]["steps"][number];

/** The step of a kind in the run's method. */
export function stepOf<K extends Step["kind"]>(view: RunView, kind: K): Extract<Step, { kind: K }> {
  return view.revision.method.steps.find((step) => step.kind === kind) as Extract<Step, { kind: K }>;
}
