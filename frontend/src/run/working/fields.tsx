/* The few parts that the choices of every step are made of. */
import { type ReactNode, useState } from "react";
import { typed } from "../../ui/Field";

export const ON_OFF = [
  { value: "on", text: "on" },
  { value: "off", text: "off" },
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
