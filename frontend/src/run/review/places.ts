/* The places of a run that a remark can be on, by kind, as they are called. */
import { useMemo } from "react";
import { useOpenRun } from "../state/open";
import type { Selection } from "../state/selection";

export interface Place {
  value: string;
  text: string;
}

export function usePlaces() {
  const { view, readings, groups } = useOpenRun();
  return useMemo(() => {
    const { layout, outcome } = view.revision;
    const answer: Place[] = [];
    for (const row of outcome.answers.rows)
      if (row.group && !answer.some((each) => each.value === row.group))
        answer.push({ value: row.group, text: row.name });
    const reading: Place[] = layout.groups.flatMap((group) =>
      group.readings.map((id, i) => ({
        value: String(id),
        text: `${group.name}, reading ${i + 1}${readings.get(id)?.text ? `: ${readings.get(id)!.text}` : ""}`,
      })),
    );
    const step: Place[] = outcome.steps.map((each) => ({ value: each.kind, text: each.title }));
    /** What a remark leads to in the Work view; null where it is on no reading and no answer. */
    const groupOf = (place: string): Selection | null => {
      const [kind, id] = [place.split(":", 1)[0], place.slice(place.indexOf(":") + 1)];
      if (kind === "answer" && groups.has(id)) return { group: id, reading: null };
      const of = layout.groups.find((group) => group.readings.includes(Number(id)));
      return kind === "reading" && of ? { group: of.id, reading: Number(id) } : null;
    };
    return { answer, reading, step, groupOf };
  }, [view, readings, groups]);
}
