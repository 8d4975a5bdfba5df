/* What is done to runs from a list: sent, said, and undone by a click where that is simple. */
import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { answer, api, problemOf } from "../api/client";
import { keys } from "../api/hooks";
import type { KeepRuns } from "../api/schema";

export type Change = KeepRuns["change"];

export function countOf(runs: readonly unknown[]): string {
  return runs.length === 1 ? "1 run" : `${runs.length.toLocaleString("en-GB")} runs`;
}

export function useKeeping() {
  const queries = useQueryClient();
  const refresh = () => {
    for (const key of [["runs"], ["run-facets"], keys.studies, ["run"], ["find"]])
      queries.invalidateQueries({ queryKey: key });
  };
  /** Whether it was done; `back` brings things back as they were. */
  const keep = async (
    runs: readonly number[],
    change: Change,
    said: string,
    back?: Change,
  ): Promise<boolean> => {
    try {
      await answer(api.POST("/api/runs/keep", { body: { runs: [...runs], change } }));
    } catch (error) {
      const { title, detail } = problemOf(error);
      toast.error(`${title} ${detail}`);
      return false;
    }
    refresh();
    const undo = back && { label: "Undo", onClick: () => keep(runs, back, "As it was.") };
    toast.success(said, undo ? { action: undo } : {});
    return true;
  };
  return { keep, refresh };
}
