/* The choices of the plain steps: blank, replicates, read back, dilution, checks. */
import type { ReactNode } from "react";
import { Pick } from "../../ui/Choice";
import { StateDot } from "../../ui/StateDot";
import { stepOf, useWorkspace } from "../workspace";

const ON_OFF = [
  { value: "on", text: "on" },
  { value: "off", text: "off" },
] as const;

const CENTRES = [
  { value: "mean", text: "mean" },
  { value: "median", text: "median" },
] as const;

export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2 py-0.5">
      <span className="min-w-[62px] shrink-0 text-graphite">{label}</span>
      {children}
    </div>
  );
}

export function BlankPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "blank");
  const set = (change: Partial<typeof step>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return (
    <>
      <Row label="Take off">
        <Pick
          label="Statistic of the blanks"
          value={step.statistic ?? "mean"}
          options={CENTRES}
          onChange={(statistic) => set({ statistic }, `Blank: ${statistic}`)}
        />
      </Row>
      <Row label="Step is">
        <Pick
          label="Blank step"
          value={step.on ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ on: on === "on" }, `Blank: ${on}`)}
        />
      </Row>
    </>
  );
}

export function ReplicatesPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "replicates");
  return (
    <Row label="Combine by">
      <Pick
        label="Combine replicates by"
        value={step.combine ?? "mean"}
        options={CENTRES}
        onChange={(combine) =>
          act({
            kind: "change",
            changes: [{ kind: "set_step", step: { ...step, combine } }],
            words: `Replicates: ${combine}`,
          })
        }
      />
    </Row>
  );
}

const LEVELS = [
  { value: "0.9", text: "90 %" },
  { value: "0.95", text: "95 %" },
  { value: "0.99", text: "99 %" },
] as const;

export function ReadBackPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "read_back");
  const set = (change: Partial<typeof step>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return (
    <>
      <Row label="Interval">
        <Pick
          label="Level of the interval"
          value={String(step.level ?? 0.95) as "0.95"}
          options={LEVELS}
          onChange={(level) => set({ level: Number(level) }, `Interval: ${level}`)}
        />
      </Row>
      <Row label="Extrapolate">
        <Pick
          label="Extrapolate"
          value={step.extrapolate ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ extrapolate: on === "on" }, `Extrapolate: ${on}`)}
        />
      </Row>
    </>
  );
}

const CVS = [
  { value: "0.1", text: "10 %" },
  { value: "0.15", text: "15 %" },
  { value: "0.2", text: "20 %" },
  { value: "0.25", text: "25 %" },
] as const;

export function LimitsPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "limits");
  const set = (change: Partial<typeof step>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return (
    <>
      <Row label="CV within">
        <Pick
          label="Read-back CV within"
          value={String(step.cv ?? 0.2) as "0.2"}
          options={CVS}
          onChange={(cv) => set({ cv: Number(cv) }, `Limits: CV ${cv}`)}
        />
      </Row>
      <Row label="Step is">
        <Pick
          label="Limits step"
          value={step.on ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ on: on === "on" }, `Limits: ${on}`)}
        />
      </Row>
    </>
  );
}

export function DilutionPanel() {
  const { view, act } = useWorkspace();
  const step = stepOf(view, "dilution");
  return (
    <Row label="Step is">
      <Pick
        label="Dilution step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) =>
          act({
            kind: "change",
            changes: [{ kind: "set_step", step: { ...step, on: on === "on" } }],
            words: `Dilution: ${on}`,
          })
        }
      />
    </Row>
  );
}

export function ChecksPanel() {
  const { view } = useWorkspace();
  return (
    <ul>
      {view.revision.outcome.checks.map((check) => (
        <li key={check.id} className="border-b border-rule py-1.5 text-md last:border-0">
          <div className="flex items-center justify-between gap-2">
            <b>{check.title}</b>
            <StateDot state={check.state} />
          </div>
          <div>{check.found}</div>
          <div className="text-sm text-graphite">
            Threshold {check.threshold}.{check.state !== "pass" && ` ${check.why}`}
          </div>
        </li>
      ))}
    </ul>
  );
}
