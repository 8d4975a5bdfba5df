/* Laying out what is selected: a form, what it will do in words and on the plate, and one button that does it. */

import { type FormEvent, useCallback, useEffect, useRef, useState } from "react";
import type { Layout, Reading } from "../../api/schema";
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";
import type { Change } from "../state/useActions";
import { AssignForm, SamplesForm, SeriesForm } from "./forms";
import { spanOf } from "./geometry";
import { usePreview } from "./usePreview";

export type Task = "assign" | "series" | "samples";
const TITLES: Record<Task, string> = {
  assign: "What are these wells?",
  series: "Dilution series",
  samples: "Number samples",
};
const FORMS = { assign: AssignForm, series: SeriesForm, samples: SamplesForm };

interface Props {
  task: Task;
  wells: readonly Reading[];
  onTrial: (layout: Layout | null) => void;
  onClose: () => void;
}

export function LayPanel({ task, wells, onTrial, onClose }: Props) {
  const { view, act } = useOpenRun();
  const [change, setChange] = useState<Change | null>(null);
  const latest = useRef<Change | null>(null);
  const tell = useCallback((next: Change | null) => {
    latest.current = next;
    setChange(next);
  }, []);
  const { preview, problem } = usePreview(view.run.id, view.revision.number, change);
  useEffect(() => {
    onTrial(preview?.layout ?? null);
    return () => onTrial(null);
  }, [preview, onTrial]);
  const Form = FORMS[task];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!latest.current || problem) return;
    act({ kind: "change", changes: [latest.current], words: preview?.words ?? TITLES[task] });
    onClose();
  };
  return (
    <form
      aria-label={TITLES[task]}
      onSubmit={submit}
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        onClose();
      }}
      className="flex flex-col gap-2.5"
    >
      <div className="flex items-baseline justify-between">
        <h3 className="text-base">{TITLES[task]}</h3>
        <span className="text-sm text-graphite">{wells.length ? spanOf(wells) : "no wells selected"}</span>
      </div>
      <Form wells={wells} unit={view.revision.layout.level.unit ?? ""} onChange={tell} />
      <p aria-live="polite" className={`min-h-[34px] text-sm ${problem ? "text-cinnabar" : "text-graphite"}`}>
        {problem || levelsOf(preview?.layout, wells) || "The plate shows the result before you apply it."}
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button look="accent" type="submit" disabled={!change || problem !== ""}>
          Apply
        </Button>
      </div>
    </form>
  );
}

/** "8 standards × 2: 20, 10, 5 … 0.156 µg/L", from the layout being tried. */
function levelsOf(layout: Layout | undefined, wells: readonly Reading[]): string {
  if (!layout) return "";
  const ids = new Set(wells.map((well) => well.id));
  const groups = layout.groups.filter((group) => group.readings.some((id) => ids.has(id)));
  if (groups.length === 0) return "";
  const sizes = [...new Set(groups.map((group) => group.readings.length))];
  const each =
    sizes.length === 1 ? ` × ${sizes[0]}` : `, ${Math.min(...sizes)} to ${Math.max(...sizes)} wells each`;
  const levels = groups.flatMap((group) => (group.level == null ? [] : [+group.level.toPrecision(4)]));
  const shown = levels.length ? levels : groups.map((group) => group.name);
  const list = shown.length > 5 ? [...shown.slice(0, 3), "…", shown.at(-1)] : shown;
  const unit = levels.length ? ` ${layout.level.unit ?? ""}` : "";
  const noun = groups.length === 1 ? "group" : "groups";
  return `${groups.length} ${noun}${each}: ${list.join(", ").replace(", …,", " …")}${unit}`;
}
