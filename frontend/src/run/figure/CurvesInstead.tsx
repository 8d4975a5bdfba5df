/* The shared figure with other curves in place of the run's own: rates against a level, scans that change. */
import { type ReactNode, useMemo, useState } from "react";
import type { Curve } from "../../api/schema";
import type { FigureLook } from "../questions/room";
import { type Curves, CurvesContext } from "../state/curves";
import { type OpenRun, OpenRunContext, useOpenRun } from "../state/open";
import { OfCurves } from "./LiveFigure";

interface Props {
  curves: readonly Curve[];
  heading: ReactNode;
  /** What single points are, and what is said where there are none. */
  look: Pick<FigureLook, "singles" | "empty" | "bars">;
}

export function CurvesInstead({ curves, heading, look }: Props) {
  const open = useOpenRun();
  const [key, chooseCurve] = useState(curves[0]!.key ?? "");
  const own = useMemo<Curves>(
    () => ({ curve: curves.find((each) => each.key === key) ?? curves[0]!, curves, chooseCurve }),
    [curves, key],
  );
  const several = curves.length > 1;
  const room = useMemo<OpenRun>(
    () => ({
      ...open,
      room: {
        ...open.room,
        figure: { ...look, ofSeries: several, fromZero: true, unmarked: true, residuals: true },
      },
    }),
    [open, several, look],
  );
  return (
    <OpenRunContext value={room}>
      <CurvesContext value={own}>
        <OfCurves heading={heading} />
      </CurvesContext>
    </OpenRunContext>
  );
}
