/* The choices of reading back, and the curve asked either way. */

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, problemOf } from "../../../api/client";
import { typed } from "../../../ui/Field";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";
import { BEYOND, INTERVALS, PickRow, Row, useStep } from "../../working/fields";

/** The curve asked either way: the signal at a concentration, the concentration at a signal. */
function AskCurve() {
  const { view } = useOpenRun();
  const { curve } = useCurves();
  const curveKey = curve.key ?? "";
  const [way, setWay] = useState<"level" | "signal">("level");
  const [text, setText] = useState("");
  const value = typed(text);
  const told = useQuery({
    queryKey: ["ask", view.run.id, view.revision.number, curveKey, way, value],
    enabled: Number.isFinite(value),
    retry: false,
    queryFn: () =>
      answer(
        api.POST("/api/runs/{id}/ask", {
          params: { path: { id: view.run.id } },
          body: { [way]: value, curve: curveKey },
        }),
      ),
  });
  const { level, signal } = view.revision.layout;
  const unit = (way === "level" ? level : signal).unit ?? "";
  return (
    <div className="mt-1 border-t border-rule pt-1">
      <PickRow
        says="Ask the curve at a"
        value={way}
        options={[
          { value: "level", text: "concentration" },
          { value: "signal", text: "signal" },
        ]}
        onChange={setWay}
      />
      <Row label="of">
        <input
          aria-label={`Ask at this ${way === "level" ? "concentration" : "signal"}`}
          value={text}
          inputMode="decimal"
          onChange={(event) => setText(event.target.value)}
          className="w-[74px] rounded-md border border-rule bg-chalk px-1.5 text-right"
        />
        <span className="min-w-0 truncate text-graphite">{unit}</span>
      </Row>
      <p
        aria-live="polite"
        className="text-md"
        title={told.data?.value == null ? "" : `In full: ${told.data.value}`}
      >
        {text.trim() && !Number.isFinite(value)
          ? "That is not a number."
          : told.error
            ? problemOf(told.error).detail
            : told.data && `${told.data.text}.`}
      </p>
    </div>
  );
}

export function ReadBackPanel() {
  const { step, set } = useStep("read_back");
  return (
    <>
      <PickRow
        says="The confidence level is"
        label="Level of the interval"
        value={String(step.level ?? 0.95) as "0.95"}
        options={INTERVALS}
        onChange={(level) => set({ level: Number(level) }, `Interval: ${level}`)}
      />
      <PickRow
        says="Outside the standards it is"
        label="Extrapolate"
        value={step.extrapolate ? "on" : "off"}
        options={BEYOND}
        onChange={(on) => set({ extrapolate: on === "on" }, `Extrapolate: ${on}`)}
      />
      <PickRow
        says="A reading's scatter is"
        label="Scatter of a reading"
        value={step.scatter ?? "tested"}
        options={[
          { value: "tested", text: "the samples' own, if it is larger" },
          { value: "curve", text: "that of the standards" },
          { value: "own", text: "that of the standards, but for odd samples" },
        ]}
        onChange={(scatter) => set({ scatter }, `Read back: scatter ${scatter}`)}
      />
      <AskCurve />
    </>
  );
}
