/* A run's intake looked at again: what was brought in and how it was understood, to be corrected as a revision. */
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { answer, api } from "../api/client";
import { useRun } from "../api/hooks";
import { Pending } from "../ui/Message";
import { NO_CHOICES } from "./choices";
import { NewRun } from "./NewRun";

export function Reopened() {
  const run = Number(useParams().run);
  const view = useRun(run);
  const brought = useQuery({
    queryKey: ["brought", run, view.data?.revision.number],
    enabled: view.data !== undefined,
    gcTime: 0,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answer(api.GET("/api/runs/{id}/intake", { params: { path: { id: run } } })),
  });
  if (!view.data || !brought.data)
    return (
      <Pending
        failure={view.error ?? brought.error}
        onRetry={() => (view.error ? view.refetch() : brought.refetch())}
      />
    );
  const { text, files, file, origin, choices } = brought.data;
  const { study_id, title, source_name } = view.data.run;
  return (
    <NewRun
      again={{
        study: study_id,
        run,
        title,
        revision: view.data.revision.number,
        source: { text, files, file: file == null ? null : { id: file, name: source_name }, origin },
        choices: { ...NO_CHOICES, ...choices },
      }}
    />
  );
}
