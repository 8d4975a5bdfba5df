/* The note on a sample or a reading: read, written and taken away beside its working. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { attempted } from "../../api/files";
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";

export function NoteLine({ place, name }: { place: string; name: string }) {
  const { view } = useOpenRun();
  const run = view.run.id;
  const queries = useQueryClient();
  const [text, setText] = useState<string | null>(null);
  const { data } = useQuery({
    queryKey: ["notes", run],
    staleTime: 10_000,
    queryFn: () => answer(api.GET("/api/runs/{id}/notes", { params: { path: { id: run } } })),
  });
  const note = data?.find((each) => each.place === place);
  const keep = () =>
    attempted(
      answer(
        api.PUT("/api/runs/{id}/notes", { params: { path: { id: run } }, body: { place, text: text ?? "" } }),
      ).then(() => {
        queries.invalidateQueries({ queryKey: ["notes", run] });
        queries.invalidateQueries({ queryKey: ["ledger", run] });
        setText(null);
      }),
    );
  if (text !== null)
    return (
      <form
        className="flex gap-2 border-b border-rule py-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <input
          aria-label={`Note on ${name}`}
          // biome-ignore lint/a11y/noAutofocus: the note was asked for
          autoFocus
          value={text}
          maxLength={4000}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Escape") setText(null);
          }}
          className="min-w-0 flex-1 rounded-md border border-rule bg-paper px-2 py-1"
        />
        <Button type="submit">Keep</Button>
      </form>
    );
  return (
    <p className="flex items-baseline gap-2 border-b border-rule py-1.5 text-sm">
      {note && (
        <span
          className="min-w-0 flex-1"
          title={`${note.author}, ${new Date(note.written_at).toLocaleString("en-GB")}`}
        >
          <b>Note:</b> {note.text}
        </span>
      )}
      <Button look="text" className="text-sm" onClick={() => setText(note?.text ?? "")}>
        {note ? "Change the note" : `Write a note on ${name}…`}
      </Button>
    </p>
  );
}
