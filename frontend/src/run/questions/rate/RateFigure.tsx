/* The live figure of rates: the courses, what rates depend on, and the same drawn as a line for teaching. */
import { useMemo, useState } from "react";
import type { Curve } from "../../../api/schema";
import { Pick, Segments } from "../../../ui/Choice";
import { AxesMenu } from "../../figure/AxesMenu";
import { RESIDUALS, type Residuals } from "../../figure/choices";
import { FigureMenu } from "../../figure/FigureMenu";
import { Drawn, OfCurves, Tick } from "../../figure/LiveFigure";
import { type Limits, WHOLE } from "../../figure/limits";
import { type Curves, CurvesContext, useCurves } from "../../state/curves";
import { type OpenRun, OpenRunContext, useOpenRun } from "../../state/open";
import { CoursesFigure } from "./CoursesFigure";
import { StraightenedFigure } from "./StraightenedFigure";

type View = "courses" | "against" | "straightened";

export function RateFigure() {
  const { view } = useOpenRun();
  const [shown, setShown] = useState<View>("courses");
  const { part } = view.revision.outcome;
  const against = part.kind === "rate" ? (part.against ?? []) : [];
  const straight = part.kind === "rate" ? (part.straightened ?? []) : [];
  const views: { value: View; text: string }[] = [{ value: "courses", text: "Courses" }];
  if (against.length > 0) views.push({ value: "against", text: "Against level" });
  if (straight.length > 0) views.push({ value: "straightened", text: "Straightened" });
  const now = views.some((each) => each.value === shown) ? shown : "courses";
  const heading =
    views.length > 1 ? (
      <Segments label="Figure of" value={now} options={views} onChange={setShown} />
    ) : (
      <h2 className="text-lg">Courses</h2>
    );
  if (now === "against") return <Against curves={against} heading={heading} />;
  if (now === "straightened") return <StraightenedFigure plots={straight} heading={heading} />;
  return <Courses heading={heading} />;
}

function Courses({ heading }: { heading: React.ReactNode }) {
  const { curve, curves, chooseCurve } = useCurves();
  const [band, setBand] = useState(false);
  const [residuals, setResiduals] = useState<Residuals | null>(null);
  const [limits, setLimits] = useState<Limits>(WHOLE);
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-x-3.5 gap-y-1">
        {heading}
        <Tick label="band" on={band} onChange={setBand} />
        <Tick label="residuals" on={residuals !== null} onChange={(on) => setResiduals(on ? "raw" : null)} />
        {residuals && (
          <Pick label="Residuals are" value={residuals} options={RESIDUALS} onChange={setResiduals} quiet />
        )}
        {curves.length > 1 && (
          <Pick
            label="Course looked at"
            value={curve.key ?? ""}
            options={curves.map((each) => ({ value: each.key ?? "", text: each.key ?? "" }))}
            onChange={chooseCurve}
          />
        )}
        <AxesMenu
          curve={curve}
          limits={limits}
          log={false}
          onLimits={setLimits}
          ranged={null}
          onRanged={() => {}}
        />
        <FigureMenu limits={limits} log={null} />
      </div>
      <Drawn limits={limits} onLimits={setLimits}>
        {(width, height) => (
          <CoursesFigure
            width={width}
            height={height}
            band={band}
            residuals={residuals}
            limits={limits}
            onLimits={setLimits}
          />
        )}
      </Drawn>
    </>
  );
}

/** What was found of the courses against their level: the shared figure, with these curves in place of the courses. */
function Against({ curves, heading }: { curves: readonly Curve[]; heading: React.ReactNode }) {
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
        figure: {
          ofSeries: several,
          fromZero: true,
          unmarked: true,
          singles: "rates",
          bars: { first: "sd", chosen: several },
          residuals: true,
          empty: "No course has a level and a rate yet.",
        },
      },
    }),
    [open, several],
  );
  return (
    <OpenRunContext value={room}>
      <CurvesContext value={own}>
        <OfCurves heading={heading} />
      </CurvesContext>
    </OpenRunContext>
  );
}
