/* The two ends of the window over which rates are taken, for all courses. */
import type { Curve } from "../../../api/schema";
import { type HandlesFrame, WindowEnds } from "../../figure/WindowEnds";
import { useOpenRun } from "../../state/open";
import { useStep } from "../../working/fields";

const NAMES = { lower: "Start of the window", upper: "End of the window" };
const TITLES = {
  lower: `${NAMES.lower}, for all courses; drag or use the arrows`,
  upper: `${NAMES.upper}, for all courses; drag or use the arrows`,
};

export function CourseWindow({ curve, ...frame }: { curve: Curve } & HandlesFrame) {
  const { view } = useOpenRun();
  const { step, set } = useStep("course");
  const { part } = view.revision.outcome;
  const times = [...new Set(curve.points.map((point) => point.x))];
  const [first, last] = [times[0], times.at(-1)];
  if (part.kind !== "rate" || first === undefined || last === undefined) return null;
  return (
    <WindowEnds
      {...frame}
      places={times}
      range={{ lower: part.lower ?? first, upper: part.upper ?? last }}
      titles={TITLES}
      names={NAMES}
      onPut={(window, low, high) => {
        const whole = window.lower === null && window.upper === null;
        set(
          { window, propose: false, leave_out: { ...step.leave_out, first: 0, last: 0 } },
          `Course: ${whole ? "all of it" : `${low} to ${high}`}`,
        );
      }}
    />
  );
}
