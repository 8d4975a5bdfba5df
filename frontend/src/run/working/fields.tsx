/* The few parts that the choices of every step are made of: the step and how it is set, rows, numbers. */

import { type ComponentProps, type ReactNode, useState } from "react";
import { answer, api } from "../../api/client";
import { Pick } from "../../ui/Choice";
import { typed } from "../../ui/Field";
import { stepOf, useOpenRun } from "../state/open";

type Kind = Parameters<typeof stepOf>[1];

/**
 * A step of the run's working, and how some of its choices are set in one change: to what is given, or to what is made of
 * the step as it is once the changes before are done.
 */
export function useStep<K extends Kind>(kind: K) {
  const { view, act } = useOpenRun();
  const step = stepOf(view, kind);
  type Change = Partial<typeof step>;
  const set = (change: Change | ((now: typeof step) => Change), words: string) =>
    act({
      kind: "change",
      changes: (view) => {
        const now = stepOf(view, kind);
        return [
          { kind: "set_step", step: { ...now, ...(typeof change === "function" ? change(now) : change) } },
        ];
      },
      words,
    });
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

export const CENTERS = [
  { value: "mean", text: "mean" },
  { value: "median", text: "median" },
] as const;

export const BEYOND = [
  { value: "off", text: "a bound" },
  { value: "on", text: "extrapolated, and marked" },
] as const;

export const ROBUST = [
  { value: "off", text: "counted in full" },
  { value: "huber", text: "counted less (Huber)" },
  { value: "bisquare", text: "counted less or not (bisquare)" },
] as const;

/** A row that reads as a sentence: what stands first goes on with what is chosen. */
export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-1.5 py-0.5">
      <span className="text-graphite">{label}</span>
      <div className="flex min-w-0 flex-wrap items-center gap-x-1.5">{children}</div>
    </div>
  );
}

/** Such a row with one choice; `label` names it where the sentence alone does not. */
export function PickRow<T extends string>({
  says,
  label = says,
  ...pick
}: Omit<ComponentProps<typeof Pick<T>>, "label"> & { says: string; label?: string }) {
  return (
    <Row label={says}>
      <Pick label={label} {...pick} />
    </Row>
  );
}

/** The level of an interval, chosen; `level` is a share, 0.95 where nothing was chosen. */
export function IntervalPick(props: { level: number | undefined; onChange: (level: number) => void }) {
  return (
    <Pick
      label="Level of the interval"
      value={String(props.level ?? 0.95) as "0.95"}
      options={INTERVALS}
      onChange={(level) => props.onChange(Number(level))}
    />
  );
}

interface DraftProps<T> {
  label: string;
  given: string;
  read: (text: string) => T | null | Promise<T | null>;
  need: string;
  onCommit: (value: T) => void;
  className: string;
  inputMode?: "decimal";
  /** Whether several lines may be typed or pasted; Enter tells, Shift and Enter begin another line. */
  lines?: boolean;
}

/** Something typed, told when Enter is pressed or the field is left; what cannot be read is answered with the need. */
export function DraftField<T>(props: DraftProps<T>) {
  const { label, given, read, need, onCommit, className, inputMode, lines = false } = props;
  // A column pasted into a field of one line would lose its line ends, and two numbers become one.
  const Box = (lines ? "textarea" : "input") as "textarea";
  const [draft, setDraft] = useState(given);
  const [wrong, setWrong] = useState(false);
  const commit = async () => {
    const value = await read(draft);
    setWrong(value === null && draft.trim() !== given);
    if (value !== null) onCommit(value);
  };
  const back = () => {
    setDraft(given);
    setWrong(false);
  };
  return (
    <>
      <Box
        aria-label={label}
        aria-invalid={wrong || undefined}
        value={draft}
        inputMode={inputMode}
        rows={lines ? Math.min(draft.split("\n").length, 5) : undefined}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter" && !event.shiftKey) {
            if (lines) event.preventDefault();
            commit();
          }
          if (event.key === "Escape") back();
        }}
        className={`rounded-md border border-rule bg-chalk px-1.5 aria-invalid:border-cinnabar ${className}`}
      />
      {wrong && (
        <span role="alert" className="order-last mt-1 basis-full text-sm text-cinnabar">
          {need}
        </span>
      )}
    </>
  );
}

/** A number typed as it comes about, such as 10^0.5 or sqrt(10); NaN when it is none. */
export async function workedOut(text: string): Promise<number> {
  try {
    return (await answer(api.GET("/api/number", { params: { query: { text } } }))).value;
  } catch {
    return Number.NaN;
  }
}

interface NumberProps {
  label: string;
  value: number | null;
  onCommit: (value: number) => void;
  fits?: (value: number) => boolean;
  need?: string;
  className?: string;
}

const NUMBER = "w-[74px]";

/** A number, told where it is another than before and fits. */
export function NumberField({
  label,
  value,
  onCommit,
  fits = () => true,
  need = "Type a number.",
  className = NUMBER,
}: NumberProps) {
  return (
    <DraftField
      label={label}
      given={value === null ? "" : String(value)}
      read={async (text) => {
        const next = text.trim() === "" || Number.isFinite(typed(text)) ? typed(text) : await workedOut(text);
        return Number.isFinite(next) && fits(next) ? next : null;
      }}
      need={need}
      onCommit={(next) => next !== value && onCommit(next)}
      className={`${className} text-right`}
      inputMode="decimal"
    />
  );
}

/** A number that may be left out: null where nothing is typed. */
export function OptionalNumber({
  label,
  value,
  onCommit,
  fits = () => true,
  need = "Type a number, or nothing.",
  className = NUMBER,
}: Omit<NumberProps, "onCommit"> & { onCommit: (value: number | null) => void }) {
  return (
    <DraftField
      label={label}
      given={value === null ? "" : String(value)}
      read={(text) => {
        if (text.trim() === "") return { value: null };
        const next = typed(text);
        return Number.isFinite(next) && fits(next) ? { value: next } : null;
      }}
      need={need}
      onCommit={(next) => next.value !== value && onCommit(next.value)}
      className={`${className} text-right`}
      inputMode="decimal"
    />
  );
}
