/* How does one thing depend on another? A curve through any x and y, or a table read off. */
import { ComparePanel } from "../../effects/ComparePanel";
import { WindowHandles } from "../../figure/WindowHandles";
import type { Room } from "../room";
import { ColumnsPanel } from "./ColumnsPanel";
import { Predictions } from "./Predictions";
import { PredictPanel } from "./PredictPanel";
import { RelationChecksPanel } from "./RelationChecksPanel";
import { RelationCurvePanel } from "./RelationCurvePanel";

export const room: Room = {
  panels: {
    columns: ColumnsPanel,
    relation_curve: RelationCurvePanel,
    predict: PredictPanel,
    compare_relations: () => <ComparePanel kind="compare_relations" />,
    relation_checks: RelationChecksPanel,
  },
  first: "relation_curve",
  choices: [
    ["relation_curve", "Read off the table, without a curve", { model: "table" }],
    ["relation_curve", "Weights: all alike", { weights: "none" }],
    ["relation_curve", "Weights: by the errors", { weights: "error" }],
    ["relation_curve", "Parameters to 2 significant digits", { digits: 2 }],
    ["relation_curve", "Parameters to 3 significant digits", { digits: 3 }],
    ["relation_curve", "Parameters as their intervals decide", { digits: null }],
    ["predict", "Intervals of the curve", { of: "curve" }],
    ["predict", "Intervals of one more reading", { of: "reading" }],
  ],
  models: [{ kind: "relation_curve", also: { start: {}, fixed: {}, bounds: {} } }],
  readings: { worked: "y" },
  figure: {
    ofSeries: true,
    fromZero: false,
    unmarked: true,
    singles: "points",
    bars: { first: "sd", chosen: true },
    residuals: true,
    empty: "No point with an x and a y: there is nothing to draw yet.",
    handles: WindowHandles,
  },
  answers: { none: "No series with points yet.", Below: Predictions },
  plate: {
    tasks: ["assign", "series"],
    doses: false,
    guide: <>Select wells and give them the role point and an x.</>,
  },
};
