/* Which dose kills half? A line through the counts of each series. */
import { FurtherTables } from "../../answers/FurtherTables";
import { ComparePanel } from "../../effects/ComparePanel";
import { Comparisons } from "../../effects/Comparisons";
import { DeclaredRow } from "../../effects/DeclaredRow";
import { NoEffectPanel } from "../../effects/NoEffectPanel";
import { EFFECT_FIGURE } from "../../effects/room";
import type { Room } from "../room";
import { Against, hasTimes, OverTime } from "./OverTime";
import { CountsPanel, LethalPanel, MortalityChecksPanel, QuantalPanel } from "./panels";

export const room: Room = {
  panels: {
    counts: CountsPanel,
    quantal: QuantalPanel,
    lethal: LethalPanel,
    compare_lethal: () => (
      <>
        <ComparePanel kind="compare_lethal" />
        <DeclaredRow kind="compare_lethal" />
      </>
    ),
    no_effect_counts: () => <NoEffectPanel kind="no_effect_counts" />,
    mortality_checks: MortalityChecksPanel,
  },
  first: "quantal",
  choices: [],
  models: [],
  readings: { counted: "affected / exposed" },
  figure: {
    ...EFFECT_FIGURE,
    singles: "vessels",
    bars: { first: "interval", chosen: false },
    half: () => 50,
    other: {
      has: hasTimes,
      Figure: OverTime,
      Switch: ({ onOther }) => <Against value="dose" onChange={onOther} />,
    },
  },
  answers: {
    none: "No lethal dose yet. Say which rows or wells are controls and doses of which series.",
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
        Drag over the doses of a treatment and press <b>D</b> for its dilution series. Select the controls,
        which had no dose, and press <b>V</b>.
      </>
    ),
  },
};
