/* What does this signal mean? Recordings of a logger, calibrated by stretches of known value. */
import { FurtherTables } from "../../answers/FurtherTables";
import type { Room } from "../room";
import { CalibratePanel } from "./CalibratePanel";
import { EventsPanel, MeasurePanel, RecordingChecksPanel, StretchesPanel } from "./panels";
import { RecordingFigure } from "./RecordingFigure";

export const room: Room = {
  panels: {
    stretches: StretchesPanel,
    calibrate: CalibratePanel,
    measure: MeasurePanel,
    events: EventsPanel,
    recording_checks: RecordingChecksPanel,
  },
  first: "stretches",
  choices: [
    ["stretches", "Stretches from mark to mark", { marked: true }],
    ["stretches", "No stretches from marks", { marked: false }],
    ["calibrate", "Show calibrated units", { applied: true }],
    ["calibrate", "Show the signal as recorded", { applied: false }],
    ["events", "Count peaks", { find: "peaks" }],
    ["events", "Count no events", { find: "off" }],
  ],
  models: [],
  readings: { worked: "Last" },
  figure: {
    ofSeries: true,
    fromZero: false,
    unmarked: true,
    singles: "samples",
    residuals: false,
    empty: "No channel to draw yet.",
    Own: RecordingFigure,
  },
  answers: { none: "No stretch yet. Drag over the traces, or go from mark to mark.", Below: FurtherTables },
  plate: { tasks: ["assign"], doses: false, guide: <>Channels of a logger stand on no plate.</> },
};
