/* What Dosis understood of a source: its first rows at once, the rest of a long table once someone goes there. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { Choices } from "../api/schema";
import { isEmpty, type Source } from "./source";

const FIRST = 1000; // rows, more than most tables have

export function useUnderstanding(source: Source, choices: Choices) {
  const [wholeOf, setWholeOf] = useState<number | null>(null);
  const ask = (first: number | null) => ({
    queryKey: ["intake", source.number, choices, first],
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    structuralSharing: false, // comparing a hundred thousand cells costs more than drawing the few that are seen
    queryFn: () =>
      source.file
        ? answer(
            api.POST("/api/files/{id}/understood", {
              params: { path: { id: source.file.id } },
              body: { choices, first },
            }),
          )
        : answer(
            api.POST("/api/intake", { body: { text: source.text, files: source.files, choices, first } }),
          ),
  });
  const head = useQuery({ ...ask(FIRST), enabled: !isEmpty(source), placeholderData: keepPreviousData });
  const long = !head.isPlaceholderData && head.data && head.data.rows.length < head.data.row_count;
  const whole = useQuery({ ...ask(null), enabled: Boolean(long) && wholeOf === source.number });
  return { ...head, data: (long && whole.data) || head.data, wantAll: () => setWholeOf(source.number) };
}
