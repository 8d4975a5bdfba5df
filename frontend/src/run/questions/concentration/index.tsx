/* How much is in my samples? Read back through a standard curve. */
import { FurtherTables } from "../../answers/FurtherTables";
import { STANDARD_CHOICES } from "../../standards/choices";
import { STANDARD_FIGURE, STANDARD_PANELS, STANDARD_PLATE } from "../../standards/room";
import type { Room } from "../room";
import { BudgetPanel } from "./BudgetPanel";
import { LimitsPanel } from "./LimitsPanel";
import { ReadBackPanel } from "./ReadBackPanel";

export const room: Room = {
  panels: { ...STANDARD_PANELS, limits: LimitsPanel, read_back: ReadBackPanel, budget: BudgetPanel },
  first: "curve",
  choices: [
    ...STANDARD_CHOICES,
    ["budget", "Uncertainty budget: on", { on: true }],
    ["budget", "Uncertainty budget: off", { on: false }],
    ["read_back", "Extrapolate: on", { extrapolate: true }],
    ["read_back", "Extrapolate: off", { extrapolate: false }],
  ],
  models: [{ kind: "curve", also: { fixed: {} } }],
  readings: { worked: "Corrected" },
  figure: { ...STANDARD_FIGURE, trusted: (curve) => curve.working ?? curve.range },
  answers: {
    none: "No samples or QCs in this run. Select readings and press A to say that they are samples.",
    Below: FurtherTables,
  },
  plate: STANDARD_PLATE,
};
