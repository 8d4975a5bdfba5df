/* Queries: what a screen asks for, cached under one key each. */
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "./client";
import type { Curve } from "./schema";
import { shared } from "./share";

export const keys = {
  studies: ["studies"] as const,
  study: (id: number) => ["study", id] as const,
  run: (id: number) => ["run", id] as const,
  curve: (run: number, revision: number, key: string) => ["curve", run, revision, key] as const,
  working: (run: number, revision: number, group: string) => ["working", run, revision, group] as const,
};

export function useStudies() {
  return useQuery({ queryKey: keys.studies, queryFn: () => answer(api.GET("/api/studies")) });
}

export function useStudy(id: number | undefined) {
  return useQuery({
    queryKey: keys.study(id ?? 0),
    enabled: id !== undefined,
    queryFn: () => answer(api.GET("/api/studies/{id}", { params: { path: { id: id! } } })),
  });
}

/** The runs of a study that were changed last. */
export function useRunsOf(study: number) {
  return useQuery({
    queryKey: ["runs", study],
    queryFn: () => answer(api.GET("/api/runs", { params: { query: { study, count: 200 } } })),
  });
}

export function useRun(id: number) {
  return useQuery({
    queryKey: keys.run(id),
    structuralSharing: shared,
    queryFn: () => answer(api.GET("/api/runs/{id}", { params: { path: { id } } })),
  });
}

export function useWorking(run: number, revision: number, group: string | null) {
  return useQuery({
    queryKey: keys.working(run, revision, group ?? ""),
    enabled: group !== null,
    staleTime: Number.POSITIVE_INFINITY, // a revision never changes
    placeholderData: (previous, query) => (query?.queryKey[3] === group ? previous : undefined),
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/working/{group}", {
          params: { path: { id: run, number: revision, group: group! } },
        }),
      ),
  });
}

/** The readings that move an answer most; asked for, not fetched by itself. */
export function useInfluence(run: number, revision: number, of: string | null) {
  return useQuery({
    queryKey: ["influence", run, revision, of],
    enabled: of !== null,
    staleTime: Number.POSITIVE_INFINITY, // a revision never changes
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/influence", {
          params: { path: { id: run, number: revision }, query: { answer: of! } },
        }),
      ),
  });
}

/** What would make an answer better known, to a half-width that is a share of it. */
export function usePlan(
  run: number,
  revision: number,
  of: string,
  width: number | undefined,
  asked: boolean,
) {
  return useQuery({
    queryKey: ["plan", run, revision, of, width],
    enabled: asked,
    staleTime: Number.POSITIVE_INFINITY, // a revision never changes
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/plan", {
          params: { path: { id: run, number: revision }, query: { answer: of, width } },
        }),
      ),
  });
}

/** All courses as small lines; made anew only where what they are drawn from has changed, which `made` tells. */
export function useCourseLines(run: number, revision: number, made: string) {
  return useQuery({
    queryKey: ["courses", run, made],
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (previous, query) => (query?.queryKey[1] === run ? previous : undefined),
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/courses", {
          params: { path: { id: run, number: revision } },
        }),
      ),
  });
}

interface Wanted {
  points: number;
  ends: readonly [number, number] | null;
  stage: string;
}

/** Scans as lines of so many points between two ends; as they stood before a step where one is named. */
export function useScanLines(run: number, revision: number, { points, ends, stage }: Wanted) {
  return useQuery({
    queryKey: ["scans", run, revision, points, ends, stage],
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    placeholderData: (previous, query) => (query?.queryKey[1] === run ? previous : undefined),
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/courses", {
          params: {
            path: { id: run, number: revision },
            query: { points, stage, ...(ends && { lower: ends[0], upper: ends[1] }) },
          },
        }),
      ),
  });
}

/** One course between two ends, finer than it is drawn as a whole; nothing until it is asked for. */
export function useCourseDetail(
  run: number,
  revision: number,
  key: string,
  ends: readonly [number, number] | null,
) {
  const [lower, upper] = ends ?? [0, 0];
  return useQuery({
    queryKey: ["course detail", run, revision, key, lower, upper],
    enabled: ends !== null,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    placeholderData: (previous, query) => (query?.queryKey[3] === key ? previous : undefined),
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/courses", {
          params: { path: { id: run, number: revision }, query: { points: 3000, key, lower, upper } },
        }),
      ),
  });
}

/** The curve looked at: one of a wall comes in brief first, then with bands, parameters and statistics. */
export function useWholeCurve(run: number, revision: number, curve: Curve): Curve {
  const key = curve.key ?? "";
  const { data } = useQuery({
    queryKey: keys.curve(run, revision, key),
    enabled: curve.brief === true,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{number}/curve", {
          params: { path: { id: run, number: revision }, query: { key } },
        }),
      ),
  });
  return data ?? curve;
}
