/* What the rooms of questions with a standard curve have in common. */
import type { AnswerRow, RunView } from "../../api/schema";
import { cellOf } from "../answers/table";
import { WindowHandles } from "../figure/WindowHandles";
import type { FigureLook, Room } from "../questions/room";
import { BlankPanel } from "../working/BlankPanel";
import { ReplicatesPanel } from "../working/ReplicatesPanel";
import { SignalPanel } from "../working/SignalPanel";
import { ChecksPanel } from "./ChecksPanel";
import { CurvePanel } from "./CurvePanel";
import { DilutionPanel } from "./DilutionPanel";

export const STANDARD_PANELS: Room["panels"] = {
  signal: SignalPanel,
  blank: BlankPanel,
  replicates: ReplicatesPanel,
  curve: CurvePanel,
  dilution: DilutionPanel,
  checks: ChecksPanel,
};

export const STANDARD_FIGURE: FigureLook = {
  ofSeries: false,
  singles: "readings",
  residuals: true,
  empty: "No standard with a concentration and a reading: there is nothing to draw yet.",
  handles: WindowHandles,
  callout,
};

export const STANDARD_PLATE: Room["plate"] = {
  tasks: ["assign", "series", "samples"],
  doses: false,
  guide: (
    <>
      Drag over the wells of your standards and press <b>D</b> for a dilution series. Drag over the samples
      and press <b>N</b> to number them. Select the blanks and press <b>B</b>.
    </>
  ),
};

/** A sample on the curve: its concentration in the reading, with the interval. */
function callout(view: RunView, row: AnswerRow) {
  const { answers, level_unit } = view.revision.outcome;
  const found = cellOf(answers, row, "in_reading");
  const name = row.name.length > 16 ? `${row.name.slice(0, 15)}…` : row.name;
  return {
    title: `${name} · ${found.text} ${level_unit}`,
    detail: found.lower ? `${found.lower} – ${found.upper} in the reading` : "no interval",
  };
}
