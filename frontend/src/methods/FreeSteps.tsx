/* Which steps an analyst may set otherwise without departing from the method; and a few lines of words. */
import { Ticks } from "../ui/Ticks";

interface Props {
  steps: readonly { kind: string; title: string }[];
  free: readonly string[];
  onChange: (free: string[]) => void;
}

export function FreeSteps({ steps, free, onChange }: Props) {
  return (
    <Ticks
      legend="May be set otherwise in a run; every other change is marked as a departure"
      options={steps.map(({ kind, title }) => ({ value: kind, text: title }))}
      chosen={free}
      onChange={onChange}
    />
  );
}

/** A few lines of words. */
export function Lines({
  label,
  value,
  onChange,
  rows = 3,
  most,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  rows?: number;
  most: number;
}) {
  return (
    <label className="flex flex-col gap-1">
      <span className="text-graphite">{label}</span>
      <textarea
        rows={rows}
        maxLength={most}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="rounded-md border border-rule bg-paper px-2.5 py-1.5"
      />
    </label>
  );
}
