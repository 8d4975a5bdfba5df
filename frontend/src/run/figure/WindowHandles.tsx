/* The two ends of the range of standards in the fit. */
import type { Curve } from "../../api/schema";
import { stepOf, useOpenRun } from "../state/open";
import { type HandlesFrame, WindowEnds } from "./WindowEnds";

const TITLES = {
  lower: "Lowest standard in the fit; drag to another",
  upper: "Highest standard in the fit; drag to another",
};

export function WindowHandles({ curve, ...frame }: { curve: Curve } & HandlesFrame) {
  const { view, act } = useOpenRun();
  const step = stepOf(view, "curve");
  if (!curve.range) return null;
  return (
    <WindowEnds
      {...frame}
      places={curve.levels}
      range={curve.range}
      titles={TITLES}
      onPut={(window, low, high) =>
        act({
          kind: "change",
          changes: [{ kind: "set_step", step: { ...step, window, leave_out: { lowest: 0, highest: 0 } } }],
          words: `Curve: standards ${low} to ${high}`,
        })
      }
    />
  );
}
