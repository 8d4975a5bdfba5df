/* The choices of shared steps as commands: each can be found by its words and made without the mouse. */
import type { RunView } from "../../api/schema";

type Step = RunView["revision"]["method"]["steps"][number];

/** A kind of step, what the command says, and what it sets. */
export type Choice = readonly [kind: Step["kind"], text: string, change: Record<string, unknown>];

export const SHARED_CHOICES: readonly Choice[] = [
  ["blank", "Blank: of each plate that has some", { scope: "each", on: true }],
  ["blank", "Blank: of the whole run", { scope: "run", on: true }],
  ["blank", "Blank: of each plate", { scope: "plate", on: true }],
  ["blank", "Blank: of each row", { scope: "row", on: true }],
  ["blank", "Blank: of each column", { scope: "column", on: true }],
  ["blank", "Blank: of each series", { scope: "series", on: true }],
  ["blank", "Blank: of each sample's own name", { scope: "own", on: true }],
  ["blank", "Blank: mean", { statistic: "mean" }],
  ["blank", "Blank: median", { statistic: "median" }],
  ["blank", "Blank: switch off", { on: false }],
  ["replicates", "Replicates: mean", { combine: "mean" }],
  ["replicates", "Replicates: median", { combine: "median" }],
  ["replicates", "Replicates: geometric mean", { combine: "geometric" }],
  ["replicates", "Replicates: each on its own", { combine: "each" }],
];
