/* What the rooms of questions about doses have in common. */
import type { FigureLook } from "../questions/room";

export const EFFECT_FIGURE: Omit<FigureLook, "singles"> = {
  ofSeries: true,
  residuals: false,
  empty: "No well with a dose and a reading: there is nothing to draw yet.",
};
