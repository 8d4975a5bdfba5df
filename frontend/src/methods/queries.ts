/* What the pages of methods, trends and batches ask for. */
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";

export const methodKeys = {
  all: ["methods"] as const,
  one: (id: number) => ["methods", id] as const,
  trends: (id: number) => ["trends", id] as const,
  batches: ["batches"] as const,
  batch: (id: number) => ["batches", id] as const,
};

export function useMethods() {
  return useQuery({ queryKey: methodKeys.all, queryFn: () => answer(api.GET("/api/methods")) });
}

export function useMethod(id: number, version: number | null) {
  return useQuery({
    queryKey: [...methodKeys.one(id), version],
    queryFn: () =>
      answer(
        api.GET("/api/methods/{id}", {
          params: { path: { id }, query: version === null ? {} : { version } },
        }),
      ),
  });
}

export function useTrends(id: number, runs: readonly number[]) {
  return useQuery({
    queryKey: [...methodKeys.trends(id), runs],
    placeholderData: (previous, query) => (query?.queryKey[1] === id ? previous : undefined),
    queryFn: () =>
      answer(
        api.GET("/api/methods/{id}/trends", { params: { path: { id }, query: { of_runs: [...runs] } } }),
      ),
  });
}

export function useBatches(method?: number) {
  return useQuery({
    queryKey: [...methodKeys.batches, "of", method ?? null],
    queryFn: () =>
      answer(api.GET("/api/batches", { params: { query: method === undefined ? {} : { method } } })),
  });
}

/** Where a run departs from its method; nothing is asked for a run that has none. */
export function useDepartures(run: number, revision: number, has: boolean) {
  return useQuery({
    queryKey: ["departures", run, revision],
    enabled: has,
    staleTime: 60_000,
    placeholderData: (previous, query) => (query?.queryKey[1] === run ? previous : undefined),
    queryFn: () => answer(api.GET("/api/runs/{id}/departures", { params: { path: { id: run } } })),
  });
}
