/* How much was in the sample before known amounts were added to it? */
import { STANDARD_CHOICES } from "../../standards/choices";
import { STANDARD_FIGURE, STANDARD_PANELS, STANDARD_PLATE } from "../../standards/room";
import type { Room } from "../room";
import { AdditionsPanel } from "./AdditionsPanel";

export const room: Room = {
  panels: { ...STANDARD_PANELS, additions: AdditionsPanel },
  first: "curve",
  choices: STANDARD_CHOICES,
  models: [{ kind: "curve", also: { fixed: {} } }],
  readings: { worked: "Corrected" },
  figure: STANDARD_FIGURE,
  answers: { none: "No sample in this run. Select the readings of the sample itself and press A to say so." },
  plate: STANDARD_PLATE,
};
