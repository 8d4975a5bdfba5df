/* What the groups of the figure's panel are made of: typed texts that are drawn while they are typed, and numbers. */
import { type ReactNode, useEffect, useRef, useState } from "react";

export const SYMBOLS = ["µ", "α", "β", "λ", "Δ", "°", "±", "×", "·", "≥", "Å", "^{−1}", "_{2}"] as const;

const RESTS_MS = 100;

export function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[84px_minmax(0,1fr)] items-baseline gap-x-2 py-1">
      <span className="text-sm text-graphite">{label}</span>
      <div className="flex min-w-0 flex-wrap items-center gap-x-2 gap-y-1">{children}</div>
    </div>
  );
}

interface TextProps {
  label: string;
  value: string;
  /** What stands there while nothing is typed. */
  placeholder?: string;
  /** Where it is put forward when its part of the figure is clicked. */
  field: string;
  onDraft: (text: string) => void;
  onKeep: (text: string) => void;
  onFocus?: (input: HTMLInputElement) => void;
  className?: string;
}

/** A text, drawn as it is typed and kept when Enter is pressed or it is left. */
export function TypedText(props: TextProps) {
  const { label, value, placeholder, field, onDraft, onKeep, onFocus, className = "" } = props;
  const [text, setText] = useState(value);
  const typing = useRef(false);
  const pause = useRef(0);
  useEffect(() => {
    if (!typing.current) setText(value);
  }, [value]);
  const keep = () => {
    typing.current = false;
    window.clearTimeout(pause.current);
    onKeep(text);
  };
  return (
    <input
      aria-label={label}
      data-field={field}
      value={text}
      placeholder={placeholder}
      maxLength={2000}
      onFocus={(event) => onFocus?.(event.target)}
      onChange={(event) => {
        typing.current = true;
        const next = event.target.value;
        setText(next);
        // Drawn once the hand rests: a figure takes longer to draw than a letter to type.
        window.clearTimeout(pause.current);
        pause.current = window.setTimeout(() => onDraft(next), RESTS_MS);
      }}
      onBlur={() => typing.current && keep()}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
        if (event.key === "Escape" && typing.current) {
          event.stopPropagation();
          typing.current = false;
          window.clearTimeout(pause.current);
          setText(value);
          onDraft(value);
        }
      }}
      className={`w-full min-w-0 rounded-md border border-rule bg-chalk px-1.5 py-0.5 placeholder:text-graphite/80 ${className}`}
    />
  );
}

interface SizeProps {
  label: string;
  value: number | null;
  /** What it is by itself, while nothing is typed. */
  by: string;
  low?: number;
  high?: number;
  unit?: string;
  field?: string;
  onKeep: (value: number | null) => void;
}

/** A number, or nothing for what the figure chooses by itself. */
export function OpenSize({ label, value, by, low, high, unit, field, onKeep }: SizeProps) {
  const given = value === null ? "" : String(value);
  const [text, setText] = useState(given);
  const [wrong, setWrong] = useState("");
  useEffect(() => setText(given), [given]);
  const keep = () => {
    const next = text.trim() === "" ? null : Number(text.replace(",", ".").replace("−", "-"));
    if (next !== null && !Number.isFinite(next)) return setWrong("Type a number, or leave it empty.");
    if (next !== null && low !== undefined && high !== undefined && (next < low || next > high))
      return setWrong(`From ${low} to ${high}${unit ? ` ${unit}` : ""}.`);
    setWrong("");
    if (next !== value) onKeep(next);
  };
  return (
    <>
      <input
        aria-label={label}
        aria-invalid={wrong !== "" || undefined}
        data-field={field}
        inputMode="decimal"
        value={text}
        placeholder={by}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
        className="w-[62px] rounded-md border border-rule bg-chalk px-1.5 py-0.5 text-right placeholder:text-graphite/80 aria-invalid:border-cinnabar"
      />
      {unit && <span className="text-sm text-graphite">{unit}</span>}
      {wrong && (
        <span role="alert" className="order-last basis-full text-sm text-cinnabar">
          {wrong}
        </span>
      )}
    </>
  );
}

export function Tick({ label, on, onKeep }: { label: string; on: boolean; onKeep: (on: boolean) => void }) {
  return (
    <label className="inline-flex items-center gap-1.5 whitespace-nowrap">
      <input
        type="checkbox"
        checked={on}
        onChange={(event) => onKeep(event.target.checked)}
        className="accent-permanganate"
      />
      {label}
    </label>
  );
}

/** Put a symbol where the cursor stands in the text typed last. */
export function insertSymbol(symbol: string, into: HTMLInputElement | null): void {
  if (!into) return;
  into.focus();
  const { selectionStart, selectionEnd, value } = into;
  const start = selectionStart ?? value.length;
  const next = value.slice(0, start) + symbol + value.slice(selectionEnd ?? start);
  // As if it were typed, so that the field's own handling draws it.
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(into, next);
  into.dispatchEvent(new Event("input", { bubbles: true }));
  into.setSelectionRange(start + symbol.length, start + symbol.length);
}
