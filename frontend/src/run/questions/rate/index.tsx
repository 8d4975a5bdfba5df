/* How fast is it? Rates of time courses, growth and decay, and what they depend on. */

import { FurtherTables } from "../../answers/FurtherTables";
import { Comparisons } from "../../effects/Comparisons";
import type { Room } from "../room";
import { CoursePanel } from "./CoursePanel";
import { CoursesWall } from "./CoursesWall";
import {
  AgainstPanel,
  CompareRatesPanel,
  CourseBlankPanel,
  RateChecksPanel,
  RatesPanel,
  ScalePanel,
  SignalPanel,
} from "./panels";
import { RateFigure } from "./RateFigure";

function Below() {
  return (
    <>
      <FurtherTables />
      <Comparisons />
    </>
  );
}

export const room: Room = {
  panels: {
    course_signal: SignalPanel,
    course_blank: CourseBlankPanel,
    course: CoursePanel,
    scale: ScalePanel,
    rates: RatesPanel,
    against_level: AgainstPanel,
    compare_rates: CompareRatesPanel,
    rate_checks: RateChecksPanel,
  },
  first: "course",
  choices: [
    ["course", "Rates from the straight part", { by: "straight" }],
    ["course", "Rates from the slope at the start", { by: "start" }],
    ["course", "A model of the whole course", { by: "whole" }],
    ["course", "Leave out the first three points", { leave_out: { first: 3, last: 0, at_most: 3 } }],
    ["course_blank", "Subtract each course's first point", { take: "start" }],
    ["course_blank", "Subtract nothing", { take: "none" }],
    ["rates", "Rates to 2 significant digits", { digits: 2 }],
    ["rates", "Rates as their intervals decide", { digits: null }],
    ["against_level", "Saturation: Vmax and Km", { model: "hyperbola" }],
    ["against_level", "Substrate inhibition", { model: "substrate_inhibition" }],
    ["against_level", "Inhibition of all series at once", { model: "inhibition" }],
    ["against_level", "Optimum", { model: "optimum" }],
    ["against_level", "Arrhenius", { model: "arrhenius" }],
    ["against_level", "No curve against the level", { model: "off" }],
  ],
  models: [{ kind: "course", also: { by: "whole", start: {}, fixed: {} } }],
  readings: { worked: "Found" },
  figure: {
    ofSeries: true,
    fromZero: false,
    unmarked: true,
    singles: "points",
    residuals: false,
    empty: "No course has a point to draw yet.",
    Own: RateFigure,
  },
  answers: { none: "No course yet. Say which readings are courses.", Below },
  wallFrom: 2,
  Wall: CoursesWall,
  plate: {
    tasks: ["assign", "series"],
    doses: true,
    guide: (
      <>
        Every well is a course. Select the blanks and press <b>B</b>; give replicates one name, and their
        level with <b>A</b>, or drag over a dilution and press <b>D</b>.
      </>
    ),
  },
};
