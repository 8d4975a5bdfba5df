/* The choices of the steps of a standard curve, as commands. */
import { type Choice, SHARED_CHOICES } from "../working/choices";

export const STANDARD_CHOICES: readonly Choice[] = [
  ...SHARED_CHOICES,
  ["curve", "Weights: by their spread", { weights: "auto" }],
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
  ["dilution", "Dilution: on", { on: true }],
  ["dilution", "Dilution: off", { on: false }],
];
