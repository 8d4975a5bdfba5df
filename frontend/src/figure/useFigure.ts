/* The figure of the open run: drawn with the look that is being tried, and kept as a change of the run. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { FigureLook } from "../api/schema";
import { useOpenRun } from "../run/state/open";
import type { Drawn, Look } from "./look";

const stamps = new WeakMap<object, number>();
let last = 0;

/** A number for what came of a run: the same as long as its answers are, whichever revision they are in. */
function stampOf(outcome: object): number {
  const known = stamps.get(outcome) ?? ++last;
  stamps.set(outcome, known);
  return known;
}

export function useFigure() {
  const { view, act } = useOpenRun();
  const { run, revision } = view;
  const saved = revision.method.figure ?? null;
  const [draft, setDraft] = useState<Look | null>(null);
  const look: FigureLook | null = draft ?? saved;
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ["figure", run.id, stampOf(revision.outcome), look],
    staleTime: 60_000,
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) =>
      (await answer(
        api.POST("/api/runs/{id}/figure", { params: { path: { id: run.id } }, body: { look }, signal }),
      )) as Drawn,
  });
  // What was tried stays until a revision has it, or one comes that was made elsewhere: an undo, another's change.
  const sent = useRef(new Set<string>());
  const seen = useRef(revision.number);
  const kept = JSON.stringify(saved);
  useEffect(() => {
    if (seen.current === revision.number) return;
    seen.current = revision.number;
    const ours = sent.current.delete(kept);
    setDraft((now) => (now && ours && JSON.stringify(now) !== kept ? now : null));
  }, [revision.number, kept]);
  const keep = useCallback(
    (next: Look) => {
      setDraft(next);
      const text = JSON.stringify(next);
      if (text === kept) return;
      sent.current.add(text);
      act({ kind: "change", changes: [{ kind: "set_figure", figure: next }], words: "Figure" });
    },
    [act, kept],
  );
  return {
    drawn: data,
    error,
    isFetching,
    refetch,
    // Of what the run has, not of the last drawing, which is behind while the next one is made.
    look: draft ?? (saved as Look | null) ?? data?.look,
    attempt: setDraft,
    keep,
  };
}

export type Figure = ReturnType<typeof useFigure>;
