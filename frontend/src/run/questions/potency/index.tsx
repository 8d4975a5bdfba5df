/* How strong is it beside a reference? Lines or curves of one shape through the doses of each preparation. */
import { FurtherTables } from "../../answers/FurtherTables";
import { EFFECT_FIGURE } from "../../effects/room";
import { BlankPanel } from "../../working/BlankPanel";
import { SHARED_CHOICES } from "../../working/choices";
import { ReplicatesPanel } from "../../working/ReplicatesPanel";
import { SignalPanel } from "../../working/SignalPanel";
import type { Room } from "../room";
import { AssaysPanel, PotencyChecksPanel, PotencyPanel } from "./panels";

export const room: Room = {
  panels: {
    signal: SignalPanel,
    blank: BlankPanel,
    replicates: ReplicatesPanel,
    assays: AssaysPanel,
    potency: PotencyPanel,
    potency_checks: PotencyChecksPanel,
  },
  first: "potency",
  choices: [
    ...SHARED_CHOICES,
    ["potency", "Potency by parallel lines", { model: "lines" }],
    ["potency", "Potency by a ratio of slopes", { model: "slopes" }],
    ["potency", "Potency by parallel four-parameter curves", { model: "logistic4" }],
    ["potency", "Potency by parallel five-parameter curves", { model: "logistic5" }],
    ["potency", "Potency by the model that fits best", { model: "auto" }],
    ["assays", "Assays: each plate is one", { assays: "plates" }],
    ["assays", "Assays: the whole run is one", { assays: "one" }],
    ["assays", "Assays: completely randomized", { blocked: "random" }],
    ["assays", "Assays: replicates are blocks", { blocked: "replicates" }],
    ["assays", "Assays: rows and columns are blocks", { blocked: "square" }],
    ["potency_checks", "Checks: parallel by equivalence", { parallel_by: "equivalence" }],
    ["potency_checks", "Checks: parallel by difference", { parallel_by: "difference" }],
  ],
  models: [],
  readings: { worked: "Worked" },
  figure: {
    ...EFFECT_FIGURE,
    singles: "readings",
    bars: { first: "sd", chosen: true },
    empty: "No two series of doses with readings: there is nothing to draw yet.",
  },
  answers: {
    none: "No potency yet. Give the doses of the reference, and those of each sample, a series of their own.",
    Below: FurtherTables,
  },
  wallFrom: 7,
  plate: {
    tasks: ["assign", "series"],
    doses: true,
    guide: (
      <>
        Drag over the doses of a preparation and press <b>D</b> for its dilution series; the first series is
        the reference. Select the blanks and press <b>B</b>.
      </>
    ),
  },
};
