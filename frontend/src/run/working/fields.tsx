/* The few parts that the choices of every step are made of: the step and how it is set, rows, numbers. */
import { type ReactNode, useState } from "react";
import { typed } from "../../ui/Field";
import { stepOf, useWorkspace } from "../workspace";

type Kind = Parameters<typeof stepOf>[1];

/** A step of the run's working, and how some of its choices are set in one change. */
export function useStep<K extends Kind>(kind: K) {
  const { view, act } = useWorkspace();
  const step = stepOf(view, kind);
  const set = (change: Partial<typeof step>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return { step, set };
}

export const INTERVALS = [
  { value: "0.9", text: "90 %" },
  { value: "0.95", text: "95 %" },
  { value: "0.99", text: "99 %" },
] as const;

export const ON_OFF = [
  { value: "on", text: "on" },
  { value: "off", text: "off" },
] as const;

export const ROBUST = [
  { value: "off", text: "off" },
  { value: "huber", text: "Huber" },
  { value: "bisquare", text: "bisquare" },
] as const;

export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2 py-0.5">
      <span className="min-w-[62px] shrink-0 text-graphite">{label}</span>
      {children}
    </div>
  );
}

/** A number that is told when Enter is pressed or the field is left. */
export function NumberField({
  label,
  value,
  onCommit,
}: {
  label: string;
  value: number | null;
  onCommit: (value: number) => void;
}) {
  const [draft, setDraft] = useState(value === null ? "" : String(value));
  const commit = () => {
    const next = typed(draft);
    if (Number.isFinite(next) && next !== value) onCommit(next);
  };
  return (
    <input
      aria-label={label}
      value={draft}
      inputMode="decimal"
      onChange={(event) => setDraft(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => event.key === "Enter" && commit()}
      className="w-[74px] rounded-md border border-rule bg-chalk px-1.5 text-right"
    />
  );
}
