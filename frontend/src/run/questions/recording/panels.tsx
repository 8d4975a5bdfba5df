/* The choices of the steps of recordings, but for the calibration. */

import { Button } from "../../../ui/Button";
import { useOpenRun } from "../../state/open";
import { CheckList } from "../../working/CheckList";
import { DraftField, NumberField, ON_OFF, PickRow, Row, useStep } from "../../working/fields";
import { useRecording } from "./useRecording";

const TIME = "w-[54px]"; // as little room as the row of a stretch has

export function StretchesPanel() {
  const { step, set } = useStep("stretches");
  const part = useRecording();
  const own = step.stretches ?? [];
  const change = (at: number, next: Partial<(typeof own)[number]>, words: string) =>
    set({ stretches: own.map((each, i) => (i === at ? { ...each, ...next } : each)) }, words);
  return (
    <>
      {own.length === 0 && (
        <p className="text-sm text-graphite">
          Choose <b>sets a stretch</b> above the traces and drag over them, or press Enter at its start and
          its end.
        </p>
      )}
      {own.map((each, at) => (
        <div
          key={`${each.name} ${each.start} ${each.stop}`}
          className="flex flex-wrap items-center gap-1 py-0.5"
        >
          <DraftField
            label={`Name of stretch ${at + 1}`}
            given={each.name}
            read={(text) => {
              const name = text.trim();
              return name && !own.some((other, i) => i !== at && other.name === name) ? name : null;
            }}
            need="Type a name that no other stretch has."
            onCommit={(name) => name !== each.name && change(at, { name }, `Stretches: ${name}`)}
            className="w-[88px]"
          />
          <NumberField
            className={TIME}
            label={`Start of ${each.name}`}
            value={each.start}
            fits={(value) => value < each.stop}
            need="Type a time before its end."
            onCommit={(start) => change(at, { start }, `Stretches: ${each.name} from ${start}`)}
          />
          <NumberField
            className={TIME}
            label={`End of ${each.name}`}
            value={each.stop}
            fits={(value) => value > each.start}
            need="Type a time after its start."
            onCommit={(stop) => change(at, { stop }, `Stretches: ${each.name} to ${stop}`)}
          />
          <Button
            look="text"
            aria-label={`Remove ${each.name}`}
            onClick={() =>
              set({ stretches: own.filter((_, i) => i !== at) }, `Stretches: ${each.name} removed`)
            }
          >
            ×
          </Button>
        </div>
      ))}
      {(part?.marks ?? []).length > 0 && (
        <PickRow
          says="From each mark to the next"
          label="From mark to mark"
          value={step.marked ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ marked: on === "on" }, `Stretches: from mark to mark ${on}`)}
        />
      )}
    </>
  );
}

export function MeasurePanel() {
  const { run } = useOpenRun().view;
  return (
    <p className="text-sm text-graphite">
      Means have intervals by the means of parts of a stretch, since neighboring samples are alike. The
      recording as it is shown:{" "}
      <a href={`/api/runs/${run.id}/recording.csv`} className="text-permanganate underline">
        CSV, whole
      </a>
      ,{" "}
      <a href={`/api/runs/${run.id}/recording.csv?every=10`} className="text-permanganate underline">
        every 10th
      </a>
      ,{" "}
      <a href={`/api/runs/${run.id}/recording.csv?every=100`} className="text-permanganate underline">
        every 100th sample
      </a>
      .
    </p>
  );
}

const FIND = [
  { value: "off", text: "nothing" },
  { value: "peaks", text: "peaks" },
  { value: "rises", text: "rises through a level" },
  { value: "falls", text: "falls through a level" },
] as const;

export function EventsPanel() {
  const { step, set } = useStep("events");
  const channels = useRecording()?.channels ?? [];
  const find = step.find ?? "off";
  return (
    <>
      <PickRow
        says="Counted are"
        label="Events"
        value={find}
        options={FIND}
        onChange={(next) => set({ find: next }, `Events: ${next}`)}
      />
      {find !== "off" && channels.length > 1 && (
        <PickRow
          says="in"
          label="Channel of the events"
          value={step.channel || channels[0]!.key}
          options={channels.map((each) => ({ value: each.key, text: each.key }))}
          onChange={(channel) => set({ channel }, `Events: in ${channel}`)}
        />
      )}
      {(find === "rises" || find === "falls") && (
        <Row label="through">
          <NumberField
            key={step.level}
            label="Level that is crossed"
            value={step.level ?? null}
            onCommit={(level) => set({ level }, `Events: through ${level}`)}
          />
        </Row>
      )}
      {find === "peaks" && (
        <Row label="that stand out by">
          <NumberField
            key={step.prominence}
            label="Prominence of the peaks"
            value={step.prominence ?? null}
            fits={(value) => value > 0}
            need="Type a number above zero."
            onCommit={(prominence) => set({ prominence }, `Events: that stand out by ${prominence}`)}
          />
          <span className="text-sm text-graphite">by itself a tenth of the range</span>
        </Row>
      )}
    </>
  );
}

const SHARES = [
  { key: "steady", says: "Known stretches steady within", fallback: 0.02 },
  { key: "beyond", says: "Values beyond the known ones by", fallback: 0.1 },
  { key: "proof", says: "Known stretches read back within", fallback: 0.02 },
] as const;

export function RecordingChecksPanel() {
  const { step, set } = useStep("recording_checks");
  return (
    <>
      {SHARES.map(({ key, says, fallback }) => (
        <Row key={key} label={says}>
          <NumberField
            key={step[key]}
            label={`${says}, share of their span`}
            value={step[key] ?? fallback}
            fits={(value) => value > 0 && value <= 1}
            need="Type a share above 0 and up to 1."
            onCommit={(value) => set({ [key]: value }, `Checks: ${says.toLowerCase()} ${value}`)}
          />
          of their span
        </Row>
      ))}
      <Row label="Known stretches of at least">
        <NumberField
          key={step.least}
          label="Samples of a known stretch"
          value={step.least ?? 20}
          fits={(value) => Number.isInteger(value) && value >= 1}
          need="Type a whole number from 1 on."
          onCommit={(least) => set({ least }, `Checks: at least ${least} samples`)}
        />
        samples
      </Row>
      <CheckList />
    </>
  );
}
