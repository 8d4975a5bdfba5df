/* A change looked at before it is made: the server lays it out, nothing is stored. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, problemOf } from "../../api/client";
import type { Preview } from "../../api/schema";
import type { Change } from "../state/useActions";
import { useSettled } from "../state/useSettled";

const PAUSE_MS = 140;

export interface Trial {
  preview: Preview | undefined;
  /** What is wrong with it, in words; empty when nothing is. */
  problem: string;
}

export function usePreview(run: number, revision: number, change: Change | null): Trial {
  const wanted = change ? JSON.stringify(change) : "";
  const settled = useSettled(wanted, PAUSE_MS, "");
  const asked = useQuery({
    queryKey: ["preview", run, revision, settled],
    enabled: settled !== "" && wanted !== "",
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 0,
    queryFn: () =>
      answer(
        api.POST("/api/runs/{id}/preview", {
          params: { path: { id: run } },
          body: { changes: [JSON.parse(settled) as Change] },
        }),
      ),
  });
  if (wanted === "") return { preview: undefined, problem: "" };
  return asked.error
    ? { preview: undefined, problem: problemOf(asked.error).detail ?? "" }
    : { preview: asked.data, problem: "" };
}
