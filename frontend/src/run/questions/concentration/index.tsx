/* How much is in my samples? Read back through a standard curve. */
import { STANDARD_CHOICES } from "../../standards/choices";
import { STANDARD_FIGURE, STANDARD_PANELS, STANDARD_PLATE } from "../../standards/room";
import type { Room } from "../room";
import { LimitsPanel } from "./LimitsPanel";
import { ReadBackPanel } from "./ReadBackPanel";

export const room: Room = {
  panels: { ...STANDARD_PANELS, limits: LimitsPanel, read_back: ReadBackPanel },
  first: "curve",
  choices: [
    ...STANDARD_CHOICES,
    ["read_back", "Extrapolate: on", { extrapolate: true }],
    ["read_back", "Extrapolate: off", { extrapolate: false }],
  ],
  models: [{ kind: "curve", also: { fixed: {} } }],
  readings: { worked: "Corrected" },
  figure: { ...STANDARD_FIGURE, trusted: (curve) => curve.working ?? curve.range },
  answers: {
    none: "No samples or QCs in this run. Select readings and press A to say that they are samples.",
  },
  plate: STANDARD_PLATE,
};
