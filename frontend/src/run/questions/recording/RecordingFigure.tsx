/* The live figure of recordings, with what a drag does, and the switch to the signal as it was recorded. */
import { useState } from "react";
import { Segments } from "../../../ui/Choice";
import { FigureMenu } from "../../figure/FigureMenu";
import { Drawn, Tick } from "../../figure/LiveFigure";
import { WHOLE } from "../../figure/limits";
import { stepOf, useOpenRun } from "../../state/open";
import { TracesFigure } from "./TracesFigure";
import { useRecording } from "./useRecording";
import type { Window } from "./view";

export function RecordingFigure() {
  const { view, act } = useOpenRun();
  const part = useRecording();
  const [window, setWindow] = useState<Window | null>(null);
  const [setting, setSetting] = useState<"move" | "set">("move");
  const [raw, setRaw] = useState(false);
  const calibrated = (part?.channels ?? []).some((each) => each.calibrated);
  const onStretch = (start: number, stop: number) => {
    const step = stepOf(view, "stretches");
    const own = step.stretches ?? [];
    const taken = new Set((part?.stretches ?? []).map((each) => each.name));
    let n = own.length + 1;
    while (taken.has(`Stretch ${n}`)) n += 1;
    const made = {
      name: `Stretch ${n}`,
      start: Number(start.toPrecision(9)),
      stop: Number(stop.toPrecision(9)),
    };
    act({
      kind: "change",
      changes: [{ kind: "set_step", step: { ...step, stretches: [...own, made] } }],
      words: `Stretches: ${made.name}`,
    });
  };
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-x-3.5 gap-y-1">
        <h2 className="text-lg">Traces</h2>
        <Segments
          label="A drag"
          value={setting}
          options={[
            { value: "move", text: "moves" },
            { value: "set", text: "sets a stretch" },
          ]}
          onChange={setSetting}
        />
        {calibrated && <Tick label="as recorded" on={raw} onChange={setRaw} />}
        <span className="text-sm text-graphite">The wheel zooms; double click for all</span>
        <FigureMenu limits={WHOLE} log={null} />
      </div>
      <Drawn
        limits={{ x: window ? [window.from, window.to] : null, y: null }}
        onLimits={() => setWindow(null)}
        drawn={(part?.channels ?? []).length > 0}
      >
        {(width, height) => (
          <TracesFigure
            width={width}
            height={height}
            raw={raw}
            window={window}
            onWindow={setWindow}
            setting={setting === "set"}
            onStretch={onStretch}
          />
        )}
      </Drawn>
    </>
  );
}
