/* A labeled text field, with what is wrong with it below. */
import { type InputHTMLAttributes, useId } from "react";

interface Props extends Omit<InputHTMLAttributes<HTMLInputElement>, "onChange"> {
  label: string;
  value: string;
  onChange: (value: string) => void;
  problem?: string;
  unit?: string;
}

export function Field({ label, value, onChange, problem, unit, className = "", ...rest }: Props) {
  const id = useId();
  return (
    <div className={`flex min-w-0 flex-col gap-0.5 ${className}`}>
      <label htmlFor={id} className="text-sm text-graphite">
        {label}
        {unit && ` / ${unit}`}
      </label>
      <input
        {...rest}
        id={id}
        value={value}
        aria-invalid={problem ? true : undefined}
        onChange={(event) => onChange(event.target.value)}
        className="min-w-0 rounded-md border border-rule bg-chalk px-2 py-1"
      />
      {problem && <span className="text-sm text-cinnabar">{problem}</span>}
    </div>
  );
}

/** A number as typed with either decimal sign; NaN when it is none. */
export function typed(text: string): number {
  return text.trim() === "" ? Number.NaN : Number(text.trim().replace(",", ".").replace("−", "-"));
}
