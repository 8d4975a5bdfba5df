/* What a question puts into the Work view. Each lives in a folder of its own beside this file, loaded when a run asks it. */
import type { ComponentType, ReactNode } from "react";
import type { AnswerRow, Curve, RunView } from "../../api/schema";
import type { XScale } from "../../plot/scales";
import type { Task } from "../plate/LayPanel";
import type { Choice } from "../working/choices";

type Step = RunView["revision"]["method"]["steps"][number];

export interface Span {
  lower: number;
  upper: number;
}

/** How the question's curves are drawn. */
export interface FigureLook {
  /** Curves stand beside each other as equals: means with bars, each series in its own color; readings on demand. */
  ofSeries: boolean;
  /** Whether the y axis begins at zero where nothing lies below it; so it does when this is not said. */
  fromZero?: boolean;
  /** Whether places marked on the curve carry no text, because they are listed below the answers. */
  unmarked?: boolean;
  /** What single readings are called: "readings", "vessels". */
  singles: string;
  /** The bars on means: which first, and whether they can be chosen. */
  bars?: { first: "sd" | "interval"; chosen: boolean };
  residuals: boolean;
  /** Why there is nothing to draw yet. */
  empty: string;
  /** The range in which answers are trusted, where there is one to shade. */
  trusted?: (curve: Curve) => Span | null;
  /** Where half of an effect lies on the y axis. */
  half?: (view: RunView) => number | null;
  /** What is dragged along the axis. */
  handles?: ComponentType<{ curve: Curve; x: XScale; top: number; bottom: number }>;
  /** What a sample chosen on the curve says. */
  callout?: (view: RunView, row: AnswerRow) => { title: string; detail: string };
  /** The question's own live figure, in place of the shared one. */
  Own?: ComponentType;
  /** Another figure in its place, when it is asked for. */
  other?: {
    has: (view: RunView) => boolean;
    Figure: ComponentType<{ onBack: () => void }>;
    Switch: ComponentType<{ onOther: () => void }>;
  };
}

export interface Room {
  /** The choices of each kind of step. */
  panels: Record<string, ComponentType>;
  /** The step that is open when a run is opened. */
  first: string;
  /** The same choices as commands. */
  choices: readonly Choice[];
  /** The kinds of step that take a curve model, and the shapes of model each takes; all, when none are named. */
  models: { kind: Choice[0]; shapes?: readonly string[]; also: Record<string, unknown> }[];
  /** A step with a choice made, where making it takes more than setting it. */
  chosen?: (step: Step, change: Record<string, unknown>) => Step | undefined;
  /** What the list shows of a reading: as read and as worked, by this word; or what was counted, by these. */
  readings: { worked: string } | { counted: string };
  figure: FigureLook;
  answers: { none: string; Below?: ComponentType };
  /** Curves from which a wall shows them all at once, and the question's own wall. */
  wallFrom?: number;
  Wall?: ComponentType<{ onOpen: () => void }>;
  /** Laying out a plate: what else can be laid beside roles and series, what a new series is, and how to go about it. */
  plate: { tasks: readonly Task[]; guide: ReactNode; doses: boolean };
}
