/* Which runs Home lists: what they are filtered by, and fetching them a page at a time as they come into view. */
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import type { paths, RunCard } from "../api/schema";

type Query = NonNullable<paths["/api/runs"]["get"]["parameters"]["query"]>;
export type Filter = Required<
  Pick<Query, "find" | "question" | "state" | "stage" | "tag" | "person" | "place" | "sort">
> & { since: string };

export const ALL: Filter = {
  find: "",
  question: "",
  state: "",
  stage: "",
  tag: "",
  person: "",
  since: "",
  place: "current",
  sort: "changed",
};
export const PAGE = 60;

export const isFiltered = ({ find, question, state, stage, tag, person, since }: Filter) =>
  [find, question, state, stage, tag, person, since].some((each) => each !== "");

const page = (study: number | undefined, { since, ...filter }: Filter, number: number) => ({
  queryKey: ["runs", study, filter, since, number] as const,
  enabled: study !== undefined,
  queryFn: () =>
    answer(
      api.GET("/api/runs", {
        params: {
          query: { ...filter, ...(since && { since }), study: study!, first: number * PAGE, count: PAGE },
        },
      }),
    ),
});

/** The runs of a study, of which those of the pages from one to another are fetched. */
export function useRunPages(study: number | undefined, filter: Filter, from: number, to: number) {
  const first = useQuery({ ...page(study, filter, 0), placeholderData: keepPreviousData });
  const numbers = Array.from(
    { length: Math.max(to - Math.max(from, 1) + 1, 0) },
    (_, i) => Math.max(from, 1) + i,
  );
  const others = useQueries({ queries: numbers.map((number) => page(study, filter, number)) });
  const at = (i: number): RunCard | undefined => {
    const number = Math.floor(i / PAGE);
    const found = number === 0 ? first.data : others[numbers.indexOf(number)]?.data;
    return found?.runs[i % PAGE];
  };
  return {
    total: first.data?.total,
    at,
    error: first.error ?? others.find((each) => each.error)?.error,
    first,
  };
}

export function useFacets(study: number | undefined) {
  return useQuery({
    queryKey: ["run-facets", study],
    enabled: study !== undefined,
    queryFn: () => answer(api.GET("/api/run-facets", { params: { query: { study: study! } } })),
  });
}
