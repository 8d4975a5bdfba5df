/* New run: paste a table, see what was understood, correct it on the spot, open it. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { answer, api, problemOf } from "../api/client";
import { keys, useStudy } from "../api/hooks";
import type { Choices } from "../api/schema";
import { Button } from "../ui/Button";
import { TopBar } from "../ui/TopBar";
import { type Choose, NO_CHOICES } from "./choices";
import { PasteBox } from "./PasteBox";
import { Preview } from "./Preview";
import { Understood } from "./Understood";

function today(): string {
  return `Run of ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`;
}

export function NewRun() {
  const study = Number(useParams().study);
  const shown = useStudy(study);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const titleId = useId();
  const [title, setTitle] = useState(today);
  const [paste, setPaste] = useState({ text: "", number: 0 });
  const [choices, setChoices] = useState<Choices>(NO_CHOICES);
  const key = useRef(crypto.randomUUID());

  const understood = useQuery({
    // The paste's number stands for its text: megabytes make a poor key.
    queryKey: ["intake", paste.number, choices],
    enabled: paste.text !== "",
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    queryFn: () => answer(api.POST("/api/intake", { body: { text: paste.text, choices } })),
  });
  const open = useMutation({
    mutationFn: () =>
      answer(api.POST("/api/runs", { body: { study, title, key: key.current, text: paste.text, choices } })),
    retry: 3,
    onSuccess: (made) => {
      queries.setQueryData(keys.run(made.run.id), made);
      queries.invalidateQueries({ queryKey: keys.study(study) });
      queries.invalidateQueries({ queryKey: keys.studies });
      navigate(`/runs/${made.run.id}`);
    },
  });

  const take = (text: string) => {
    setPaste((old) => ({ text, number: old.number + 1 }));
    setChoices(NO_CHOICES);
    key.current = crypto.randomUUID();
    open.reset();
  };
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      // Anywhere on the page but in a field of its own, a paste is the table.
      if (event.target instanceof HTMLInputElement) return;
      const text = event.clipboardData?.getData("text/plain");
      if (text === undefined) return;
      event.preventDefault();
      take(text.trim() === "" ? " " : text);
    };
    window.addEventListener("paste", onPaste);
    return () => window.removeEventListener("paste", onPaste);
  });

  const result = paste.text === "" ? undefined : understood.data;
  const failure =
    paste.text === ""
      ? null
      : (open.error ?? understood.error ?? (understood.data ? null : understood.failureReason));
  const choose: Choose = (change) => {
    setChoices((old) => ({ ...old, ...change }));
    key.current = crypto.randomUUID();
  };
  const ready = Boolean(result?.ready) && !understood.isError && title.trim() !== "" && !open.isPending;
  return (
    <div className="flex h-full flex-col">
      <TopBar
        trail={[{ text: shown.data?.study.name ?? "Study", to: `/studies/${study}` }, { text: "New run" }]}
      >
        <Button onClick={() => navigate(`/studies/${study}`)}>Cancel</Button>
        <Button look="accent" disabled={!ready} onClick={() => open.mutate()}>
          {open.isPending ? "Opening …" : "Open run"}
        </Button>
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <main className="flex min-w-0 flex-1 flex-col gap-3 p-5">
          <div className="flex items-end justify-between gap-4">
            <div>
              <h1 className="text-xl">Bring readings in</h1>
              <p className="text-graphite">
                {result
                  ? "Check the headings and roles; every one can be changed. Paste again to replace the table."
                  : "Copy the table from wherever it is, come back here and paste."}
              </p>
            </div>
            <label htmlFor={titleId} className="flex items-center gap-2 text-graphite">
              Name
              <input
                id={titleId}
                value={title}
                maxLength={200}
                onChange={(event) => setTitle(event.target.value)}
                className="w-[236px] rounded-md border border-rule bg-chalk px-2.5 py-1.5 text-ink"
              />
            </label>
          </div>
          {failure != null && <Failure error={failure} />}
          {result ? (
            <Preview understood={result} choices={choices} choose={choose} />
          ) : (
            <PasteBox busy={understood.isFetching && paste.text !== ""} onText={take} />
          )}
        </main>
        <aside
          aria-label="What Dosis understood"
          className="w-[440px] shrink-0 overflow-y-auto border-l border-rule bg-chalk p-5"
        >
          <Understood understood={result} choices={choices} choose={choose} />
        </aside>
      </div>
    </div>
  );
}

function Failure({ error }: { error: unknown }) {
  const problem = problemOf(error);
  return (
    <p role="alert" className="rounded-md border border-cinnabar/40 bg-cinnabar-tint px-3 py-2 text-cinnabar">
      <b>{problem.title}</b> {problem.detail}
    </p>
  );
}
