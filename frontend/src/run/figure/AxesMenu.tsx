/* The ends of the axes, typed; and the way back to the whole. */
import { Popover } from "radix-ui";
import { type FormEvent, useState } from "react";
import type { Curve } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Field, typed } from "../../ui/Field";
import { type Ends, type Limits, WHOLE } from "./limits";

interface Props {
  curve: Curve;
  limits: Limits;
  log: boolean;
  onLimits: (limits: Limits) => void;
  /** Whether the range of trust is shaded; null where there is none to shade. */
  ranged: boolean | null;
  onRanged: (ranged: boolean) => void;
}

export function AxesMenu({ curve, limits, log, onLimits, ranged, onRanged }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button look="text" className="text-sm">
          Axes…
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          aria-label="Ends of the axes"
          className="z-50 w-[280px] rounded-lg border border-rule bg-chalk p-3 shadow-lg"
        >
          <Form
            curve={curve}
            limits={limits}
            log={log}
            onLimits={(next) => {
              onLimits(next);
              setOpen(false);
            }}
          />
          {ranged !== null && (
            <label className="mt-2 flex items-center gap-2 border-t border-rule pt-2">
              <input type="checkbox" checked={ranged} onChange={(event) => onRanged(event.target.checked)} />
              Shade the range in which answers are trusted
            </label>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function shownEnd(ends: Ends | null, i: 0 | 1): string {
  return ends === null ? "" : String(+ends[i].toPrecision(4));
}

function Form({ curve, limits, log, onLimits }: Omit<Props, "ranged" | "onRanged">) {
  const [low, setLow] = useState(shownEnd(limits.x, 0));
  const [high, setHigh] = useState(shownEnd(limits.x, 1));
  const [bottom, setBottom] = useState(shownEnd(limits.y, 0));
  const [top, setTop] = useState(shownEnd(limits.y, 1));
  const x = problemOf(low, high, log);
  const y = problemOf(bottom, top, false);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (x || y) return;
    onLimits({ x: endsOf(low, high), y: endsOf(bottom, top) });
  };
  return (
    <form onSubmit={submit} className="flex flex-col gap-2">
      <p className="text-sm text-graphite">
        Leave both ends of an axis empty to show all of it. A frame drawn on the figure zooms in, too.
      </p>
      <fieldset className="grid min-w-0 grid-cols-2 gap-x-2 [&_input]:w-full">
        <legend className="text-md">{curve.x_label}</legend>
        <Field label="From" value={low} inputMode="decimal" problem={x} onChange={setLow} />
        <Field label="To" value={high} inputMode="decimal" onChange={setHigh} />
      </fieldset>
      <fieldset className="grid min-w-0 grid-cols-2 gap-x-2 [&_input]:w-full">
        <legend className="text-md">{curve.y_label}</legend>
        <Field label="From" value={bottom} inputMode="decimal" problem={y} onChange={setBottom} />
        <Field label="To" value={top} inputMode="decimal" onChange={setTop} />
      </fieldset>
      <div className="flex justify-end gap-2">
        <Button onClick={() => onLimits(WHOLE)}>Whole</Button>
        <Button look="accent" type="submit" disabled={Boolean(x || y)}>
          Set
        </Button>
      </div>
    </form>
  );
}

function endsOf(low: string, high: string): Ends | null {
  return low.trim() === "" && high.trim() === "" ? null : [typed(low), typed(high)];
}

function problemOf(low: string, high: string, log: boolean): string | undefined {
  const ends = endsOf(low, high);
  if (ends === null) return undefined;
  if (!ends.every(Number.isFinite)) return "Two numbers, or neither.";
  if (ends[0] >= ends[1]) return "From is above to.";
  return log && (ends[0] < 0 || ends[1] <= 0) ? "Not below zero on a log axis." : undefined;
}
