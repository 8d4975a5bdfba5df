/* An open run that is changed elsewhere: shown within two seconds, and said. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type RefObject, useEffect, useRef } from "react";
import { toast } from "sonner";
import { answer, api } from "../../api/client";
import { keys } from "../../api/hooks";
import type { RunView } from "../../api/schema";

const EVERY_MS = 1500;

/** busy : while something of this window's own is on its way, what comes in may be just that. */
export function useLive(view: RunView, busy: RefObject<number>) {
  const queries = useQueryClient();
  const id = view.run.id;
  const told = useRef(0);
  const said = useRef(0);
  const now = useQuery({
    queryKey: ["now", id],
    refetchInterval: EVERY_MS, // not while the window is hidden
    retry: false,
    queryFn: async () => {
      const own = busy.current;
      const found = await answer(api.GET("/api/runs/{id}/now", { params: { path: { id } } }));
      return { ...found, mine: own > 0 || busy.current > 0 };
    },
  });
  const { data } = now;
  const { number } = view.revision;
  const { stage } = view.run;
  useEffect(() => {
    if (!data || data.mine || busy.current > 0) return;
    if (data.stage !== stage || data.said !== said.current)
      queries.invalidateQueries({ queryKey: ["review", id] });
    said.current = data.said;
    if (data.revision <= number && data.stage === stage) return;
    if (data.revision > number && data.revision > told.current) {
      told.current = data.revision;
      toast(`${data.author} changed this run: ${data.words}`);
    }
    queries.invalidateQueries({ queryKey: keys.run(id) });
    queries.invalidateQueries({ queryKey: ["ledger", id] });
  }, [data, number, stage, id, queries, busy]);
  return data?.remarks ?? 0;
}
