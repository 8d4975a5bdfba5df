/* What the parts of the Work view share: the run, what is selected or pointed at, and how to act. */
import { createContext, useContext } from "react";
import type { Curve, Group, Reading, ReadingOutcome, RunView } from "../api/schema";
import type { Action } from "./useActions";

export interface Selection {
  group: string;
  /** One reading of the group, or null for all of them. */
  reading: number | null;
}

export interface Numbered {
  id: string;
  title: string;
}

export interface Workspace {
  view: RunView;
  groups: ReadonlyMap<string, Group>;
  readings: ReadonlyMap<number, Reading>;
  outcomes: ReadonlyMap<number, ReadingOutcome>;
  excluded: ReadonlyMap<number, string>;
  selection: Selection | null;
  select: (selection: Selection | null) => void;
  /** The wells selected on a plate: those of the selection, or any a person dragged over. */
  wells: ReadonlySet<number>;
  chooseWells: (ids: readonly number[]) => void;
  /** Exclude readings (asking for the reason), or include them again when all are excluded. */
  exclude: (readings: readonly number[]) => void;
  hovered: string | null;
  hover: (group: string | null) => void;
  act: (action: Action) => void;
  /** The curve looked at, where there are several; and all of them. */
  curve: Curve;
  curves: readonly Curve[];
  chooseCurve: (key: string) => void;
  /** A number that belongs to no group, whose working is shown: a parameter, a limit, a check. */
  number: Numbered | null;
  showNumber: (number: Numbered) => void;
  /** Exclude the selected reading (asking for the reason), or include it again. */
  toggleExcluded: (selection: Selection) => void;
  assign: (group: string) => void;
}

export const WorkspaceContext = createContext<Workspace | null>(null);

export function useWorkspace(): Workspace {
  const workspace = useContext(WorkspaceContext);
  if (!workspace) throw new Error("This part belongs inside a run.");
  return workspace;
}

/** Whether a run is asked for the dose of an effect, with curves of series and their means. */
export function asksDose(view: RunView): boolean {
  return ["dose", "mortality"].includes(view.revision.method.question ?? "");
}

/** The step of a kind in the run's method. */
type Steps = RunView["revision"]["method"]["steps"][number];
export function stepOf<K extends Steps["kind"]>(view: RunView, kind: K): Extract<Steps, { kind: K }> {
  return view.revision.method.steps.find((step) => step.kind === kind) as Extract<Steps, { kind: K }>;
}
