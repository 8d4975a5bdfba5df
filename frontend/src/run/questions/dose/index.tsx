/* Which dose has half the effect? A curve through the doses of each series. */

import type { RunView } from "../../../api/schema";
import { FurtherTables } from "../../answers/FurtherTables";
import { ComparePanel } from "../../effects/ComparePanel";
import { Comparisons } from "../../effects/Comparisons";
import { NoEffectPanel } from "../../effects/NoEffectPanel";
import { EFFECT_FIGURE } from "../../effects/room";
import { stepOf } from "../../state/open";
import { BlankPanel } from "../../working/BlankPanel";
import { SHARED_CHOICES } from "../../working/choices";
import { ReplicatesPanel } from "../../working/ReplicatesPanel";
import { SignalPanel } from "../../working/SignalPanel";
import type { Room } from "../room";
import { DoseCurvePanel, nothingHeld, SHAPES } from "./DoseCurvePanel";
import { NormalizePanel } from "./NormalizePanel";
import { DoseChecksPanel, EffectsPanel } from "./panels";

export const room: Room = {
  panels: {
    signal: SignalPanel,
    blank: BlankPanel,
    replicates: ReplicatesPanel,
    normalize: NormalizePanel,
    dose_curve: DoseCurvePanel,
    effects: EffectsPanel,
    compare: () => <ComparePanel kind="compare" />,
    no_effect: () => <NoEffectPanel kind="no_effect" />,
    dose_checks: DoseChecksPanel,
  },
  first: "normalize",
  choices: [
    ...SHARED_CHOICES,
    ["dose_curve", "Fit normalized responses", { of: "normalized" }],
    ["dose_curve", "Fit raw responses", { of: "raw" }],
    ["normalize", "Normalize: switch off", { on: false }],
    ["normalize", "Normalize: switch on", { on: true }],
    ["effects", "Effects: 50 %", { levels: [50] }],
    ["effects", "Effects: 50, 10 and 90 %", { levels: [50, 10, 90] }],
    ["no_effect", "No effect: Dunnett’s test", { test: "dunnett" }],
    ["no_effect", "No effect: Williams’s test", { test: "williams" }],
    ["no_effect", "No effect: not tested", { test: "off" }],
    ["effects", "Interval by profile likelihood", { method: "profile" }],
    ["effects", "Interval on the log scale", { method: "wald" }],
  ],
  models: [{ kind: "dose_curve", shapes: SHAPES, also: { fixed: {}, share: [] } }],
  // What is held is in the unit of the responses, so it is let go when these become others.
  chosen: (step, change) =>
    step.kind === "dose_curve" && "of" in change ? { ...step, ...nothingHeld(step), ...change } : undefined,
  readings: { worked: "Normalized" },
  figure: { ...EFFECT_FIGURE, singles: "readings", bars: { first: "sd", chosen: true }, half },
  answers: {
    none: "No half-effect dose yet. Say which wells are vehicle, full effect and doses of which series.",
    Below: () => (
      <>
        <Comparisons />
        <FurtherTables />
      </>
    ),
  },
  wallFrom: 4,
  plate: {
    tasks: ["assign", "series"],
    doses: true,
    guide: (
      <>
        Drag over the doses of a compound and press <b>D</b> for its dilution series. Select the vehicle wells
        and press <b>V</b>, those with full effect and press <b>F</b>, the blanks and press <b>B</b>.
      </>
    ),
  },
};

/** Where half of the effect lies on the scale of the controls; null where responses are as they were read. */
function half(view: RunView): number | null {
  const step = stepOf(view, "normalize");
  const normalized = view.revision.outcome.steps.find((each) => each.kind === "normalize");
  if (!step.on || normalized?.state !== "pass" || stepOf(view, "dose_curve").of === "raw") return null;
  return step.scale === "fraction" ? 0.5 : 50;
}
