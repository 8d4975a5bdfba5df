/* The live figure of spectra: the scans over each other, as they are or as they were before a step, and their change. */
import { useState } from "react";
import { Pick, Segments } from "../../../ui/Choice";
import { AxesMenu } from "../../figure/AxesMenu";
import { CurvesInstead } from "../../figure/CurvesInstead";
import { FigureMenu } from "../../figure/FigureMenu";
import { Drawn, Tick } from "../../figure/LiveFigure";
import { type Limits, WHOLE } from "../../figure/limits";
import { useCurves } from "../../state/curves";
import { stepOf, useOpenRun } from "../../state/open";
import { Legend } from "./Legend";
import { useScanMarks } from "./lines";
import { ScansFigure } from "./ScansFigure";

const CHANGE = { singles: "scans", empty: "No scan has a level and a value yet." } as const;

type View = "scans" | "change";
type Click = "look" | "peak" | "value" | "follow";

const STAGES: Record<string, string> = {
  correct: "before Correct",
  smooth: "before Smooth",
  combine: "before Combine",
};

export function SpectrumFigure() {
  const part = useScanMarks();
  const [shown, setShown] = useState<View>("scans");
  const changes = part?.changes ?? [];
  const heading =
    changes.length > 0 ? (
      <Segments
        label="Figure of"
        value={shown}
        options={[
          { value: "scans", text: "Scans" },
          { value: "change", text: "Change" },
        ]}
        onChange={setShown}
      />
    ) : (
      <h2 className="text-lg">Scans</h2>
    );
  if (shown === "change" && changes.length > 0)
    return <CurvesInstead curves={changes} heading={heading} look={CHANGE} />;
  return <Scans heading={heading} />;
}

function Scans({ heading }: { heading: React.ReactNode }) {
  const { curve } = useCurves();
  const { view, act } = useOpenRun();
  const part = useScanMarks();
  const [limits, setLimits] = useState<Limits>(WHOLE);
  const [stage, setStage] = useState("");
  const [click, setClick] = useState<Click>("look");
  const [rest, setRest] = useState(true);
  const mixed = (part?.scans ?? []).some((each) => (each.rest_x ?? []).length > 0);
  const stages = (part?.stages ?? []).filter((each) => STAGES[each]);
  const onPlace = (place: number) => {
    const at = Number(place.toPrecision(5));
    const [kind, change, words] = {
      peak: ["peaks", { picked: [...(stepOf(view, "peaks").picked ?? []), at] }, `Peaks: picked near ${at}`],
      value: ["at", { places: [...(stepOf(view, "at").places ?? []), at] }, `At: ${at}`],
      follow: ["change", { of: "at", at }, `Change: of ${at}`],
      look: ["at", {}, ""],
    }[click] as ["peaks" | "at" | "change", object, string];
    act({
      kind: "change",
      changes: [{ kind: "set_step", step: { ...stepOf(view, kind), ...change } }],
      words,
    });
    setClick("look");
  };
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-x-3.5 gap-y-1">
        {heading}
        <Pick
          label="Scans shown"
          value={stages.includes(stage) ? stage : ""}
          options={[
            { value: "", text: "as they stand" },
            ...stages.map((each) => ({ value: each, text: STAGES[each]! })),
          ]}
          onChange={setStage}
          quiet
        />
        <Pick
          label="A click"
          value={click}
          options={[
            { value: "look", text: "click: look at a scan" },
            { value: "peak", text: "click: pick a peak" },
            { value: "value", text: "click: read a value" },
            { value: "follow", text: "click: follow its change" },
          ]}
          onChange={(next) => setClick(next as Click)}
          quiet
        />
        {mixed && <Tick label="left over" on={rest} onChange={setRest} />}
        <AxesMenu
          curve={{ ...curve, x_label: part?.x_label ?? "", y_label: part?.y_label ?? "" }}
          limits={limits}
          log={false}
          onLimits={setLimits}
          ranged={null}
          onRanged={() => {}}
        />
        <FigureMenu limits={limits} log={null} />
      </div>
      <Drawn limits={limits} onLimits={setLimits} drawn={(part?.scans ?? []).length > 0} beside={<Legend />}>
        {(width, height) => (
          <ScansFigure
            width={width}
            height={height}
            limits={limits}
            onLimits={setLimits}
            stage={stages.includes(stage) ? stage : ""}
            onPlace={click === "look" ? null : onPlace}
            rest={rest}
          />
        )}
      </Drawn>
    </>
  );
}
