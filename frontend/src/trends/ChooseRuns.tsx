/* Which runs precision and the summary are of. */
import { useState } from "react";
import type { TrendRun } from "../api/schema";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Ticks } from "../ui/Ticks";

interface Props {
  runs: readonly TrendRun[];
  chosen: readonly number[];
  onChoose: (runs: readonly number[]) => void;
  onClose: () => void;
}

export function ChooseRuns({ runs, chosen, onChoose, onClose }: Props) {
  const [own, setOwn] = useState<readonly number[]>(chosen.length > 0 ? chosen : runs.map((run) => run.id));
  return (
    <Ask
      wide
      open
      title="Runs that count"
      detail="Precision, recovery and the summary are of these runs; the chart shows all."
      onClose={onClose}
    >
      <Ticks
        options={runs.map((run) => ({ value: run.id, text: run.title }))}
        chosen={own}
        onChange={setOwn}
      />
      <div className="flex justify-end gap-2">
        <Button onClick={() => onChoose([])}>All runs</Button>
        <Button
          look="accent"
          disabled={own.length === 0}
          onClick={() => onChoose(own.length === runs.length ? [] : own)}
        >
          These {own.length}
        </Button>
      </div>
    </Ask>
  );
}
