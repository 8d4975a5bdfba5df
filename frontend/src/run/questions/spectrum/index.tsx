/* What do these scans show? Peaks, values, areas, mixtures and change of spectra. */
import { FurtherTables } from "../../answers/FurtherTables";
import type { Room } from "../room";
import { ChangePanel } from "./ChangePanel";
import {
  AtPanel,
  CombinePanel,
  CorrectPanel,
  MixturePanel,
  PeaksPanel,
  ScanChecksPanel,
  ScanSignalPanel,
  SmoothPanel,
} from "./panels";
import { SpectrumFigure } from "./SpectrumFigure";

export const room: Room = {
  panels: {
    scan_signal: ScanSignalPanel,
    correct: CorrectPanel,
    smooth: SmoothPanel,
    combine: CombinePanel,
    peaks: PeaksPanel,
    at: AtPanel,
    mixture: MixturePanel,
    change: ChangePanel,
    scan_checks: ScanChecksPanel,
  },
  first: "peaks",
  choices: [
    ["scan_signal", "Absorbance from transmittance", { convert: "absorbance" }],
    ["scan_signal", "Transmittance from absorbance", { convert: "transmittance" }],
    ["scan_signal", "Wavenumbers along the axis", { axis: "1/cm" }],
    ["scan_signal", "Wavelengths along the axis", { axis: "nm" }],
    ["correct", "No baseline", { baseline: "none" }],
    ["smooth", "Smooth over 7 points", { points: 7, derivative: 0 }],
    ["smooth", "Smooth over 15 points", { points: 15, derivative: 0 }],
    ["smooth", "First derivative", { derivative: 1 }],
    ["smooth", "Second derivative", { derivative: 2 }],
    ["smooth", "No smoothing", { points: 0, derivative: 0 }],
    ["combine", "Bring all scans to one highest point", { normalize: "peak" }],
    ["combine", "Bring all scans to one area", { normalize: "area" }],
    ["combine", "Scans as they are, not normalized", { normalize: "none" }],
    ["combine", "Replicate scans each by itself", { replicates: "each" }],
    ["mixture", "Mixture: no amount below zero", { not_negative: true }],
    ["change", "Change: the order that fits best", { order: "best" }],
    ["change", "Change of zero order", { order: "zero" }],
    ["change", "Change of first order, to zero", { order: "first" }],
    ["change", "Change of first order, to a plateau", { order: "first_plateau" }],
  ],
  models: [],
  readings: { worked: "Highest at" },
  figure: {
    ofSeries: true,
    fromZero: false,
    unmarked: true,
    singles: "scans",
    residuals: false,
    empty: "No scan to draw yet.",
    Own: SpectrumFigure,
  },
  answers: { none: "No scan yet. Say which readings are scans.", Below: FurtherTables },
  plate: {
    tasks: ["assign", "series"],
    doses: true,
    guide: (
      <>
        Every well is a scan. Select the blanks and press <b>B</b>; give replicates one name, and their level
        with <b>A</b>.
      </>
    ),
  },
};
