/* The live figure of rates: the courses, what rates depend on, and the same drawn as a line for teaching. */
import { useState } from "react";
import { Pick, Segments } from "../../../ui/Choice";
import { AxesMenu } from "../../figure/AxesMenu";
import { CurvesInstead } from "../../figure/CurvesInstead";
import { RESIDUALS, type Residuals } from "../../figure/choices";
import { FigureMenu } from "../../figure/FigureMenu";
import { Drawn, Tick } from "../../figure/LiveFigure";
import { type Limits, WHOLE } from "../../figure/limits";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";
import { CoursesFigure } from "./CoursesFigure";
import { StraightenedFigure } from "./StraightenedFigure";

const AGAINST = {
  singles: "rates",
  bars: { first: "sd", chosen: true },
  empty: "No course has a level and a rate yet.",
} as const;

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
  if (now === "against") return <CurvesInstead curves={against} heading={heading} look={AGAINST} />;
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
