/* The figure of the open run: drawn with the look that is being tried, and kept as a change of the run. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { answer, api } from "../api/client";
import type { FigureLook } from "../api/schema";
import { useOpenRun } from "../run/state/open";
import type { Drawn, Look } from "./look";

export function useFigure() {
  const { view, act } = useOpenRun();
  const { run, revision } = view;
  const saved = revision.method.figure ?? null;
  const [draft, setDraft] = useState<Look | null>(null);
  const look: FigureLook | null = draft ?? saved;
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ["figure", run.id, revision.number, look],
    staleTime: 60_000,
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) =>
      (await answer(
        api.POST("/api/runs/{id}/figure", { params: { path: { id: run.id } }, body: { look }, signal }),
      )) as Drawn,
  });
  // What was tried is the run's own once a revision has it; undo then leads back from it.
  useEffect(() => {
    setDraft((now) => (now && JSON.stringify(now) === JSON.stringify(saved) ? null : now));
  }, [saved]);
  useEffect(() => {
    if (revision.number) setDraft(null);
  }, [revision.number]);
  const keep = useCallback(
    (next: Look) => {
      setDraft(next);
      if (JSON.stringify(next) !== JSON.stringify(saved))
        act({ kind: "change", changes: [{ kind: "set_figure", figure: next }], words: "Figure" });
    },
    [act, saved],
  );
  return { drawn: data, error, isFetching, refetch, look: draft ?? data?.look, attempt: setDraft, keep };
}

export type Figure = ReturnType<typeof useFigure>;
