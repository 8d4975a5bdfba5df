/* The choices of the working as commands: each can be found by its words and made without the mouse. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { answer, api } from "../../api/client";
import type { RunView } from "../../api/schema";
import { type Act, useCommands } from "../../app/commands";
import { nothingHeld } from "../doses/DoseCurvePanel";
import type { Change } from "../useActions";
import type { Workspace } from "../workspace";

type Step = RunView["revision"]["method"]["steps"][number];

/** Of each kind of step: what a command says, and what it sets. */
const CHOICES: [Step["kind"], string, Record<string, unknown>][] = [
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
  ["curve", "Weights: none", { weights: "none" }],
  ["curve", "Weights: 1/x", { weights: "1/x" }],
  ["curve", "Weights: 1/x²", { weights: "1/x^2" }],
  ["curve", "Weights: 1/y", { weights: "1/y" }],
  ["curve", "Weights: 1/y²", { weights: "1/y^2" }],
  ["curve", "Robust: off", { robust: "off" }],
  ["curve", "Robust: Huber", { robust: "huber" }],
  ["curve", "Robust: bisquare", { robust: "bisquare" }],
  ["curve", "Fit to every reading", { fit_to: "readings" }],
  ["curve", "Fit to means", { fit_to: "means" }],
  [
    "curve",
    "Use all standards",
    { window: { lower: null, upper: null }, leave_out: { lowest: 0, highest: 0 } },
  ],
  ["curve", "One curve for whatever has standards of its own", { per: "each" }],
  ["curve", "One curve for the run", { per: "run" }],
  ["curve", "One curve for each plate", { per: "plate" }],
  ["curve", "One curve for each series", { per: "series" }],
  ["read_back", "Extrapolate: on", { extrapolate: true }],
  ["read_back", "Extrapolate: off", { extrapolate: false }],
  ["dose_curve", "Fit normalized responses", { of: "normalized" }],
  ["dose_curve", "Fit raw responses", { of: "raw" }],
  ["normalize", "Normalize: switch off", { on: false }],
  ["normalize", "Normalize: switch on", { on: true }],
  ["effects", "Effects: 50 %", { levels: [50] }],
  ["effects", "Effects: 50, 10 and 90 %", { levels: [50, 10, 90] }],
  ["effects", "Interval by profile likelihood", { method: "profile" }],
  ["effects", "Interval on the log scale", { method: "wald" }],
  ["dilution", "Dilution: on", { on: true }],
  ["dilution", "Dilution: off", { on: false }],
];

export function useStepCommands({ view, act }: Pick<Workspace, "view" | "act">): void {
  const models = useQuery({
    queryKey: ["models"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answer(api.GET("/api/models")),
  });
  const { steps } = view.revision.method;
  const commands = useMemo<Act[]>(() => {
    const all = [
      ...CHOICES,
      ...(models.data ?? []).flatMap((model): typeof CHOICES => {
        const text = `Curve: ${model.name}`;
        const doses: typeof CHOICES = [["dose_curve", text, { model: model.id, fixed: {}, share: [] }]];
        return [
          ["curve", text, { model: model.id, fixed: {} }],
          ...(["sigmoid", "peaked"].includes(model.shape) ? doses : []),
        ];
      }),
    ];
    return all.flatMap(([kind, text, change]) => {
      const step = steps.find((each) => each.kind === kind);
      if (!step) return [];
      const free = step.kind === "dose_curve" && "of" in change ? nothingHeld(step) : {};
      const set = { kind: "set_step", step: { ...step, ...free, ...change } } as Change;
      return [
        { id: text, text, quiet: true, run: () => act({ kind: "change", changes: [set], words: text }) },
      ];
    });
  }, [models.data, steps, act]);
  useCommands("steps", commands);
}
