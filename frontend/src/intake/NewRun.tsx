/* New run: paste a table, see what was understood, correct it on the spot, open it. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { answer, api, ProblemError, problemOf } from "../api/client";
import { QUESTIONS } from "../api/declared";
import { keys, useStudy } from "../api/hooks";
import { newKey } from "../api/key";
import type { Choices, MethodChosen } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick, Segments } from "../ui/Choice";
import { TopBar } from "../ui/TopBar";
import { Progress } from "../upload/Progress";
import { remove } from "../upload/upload";
import { useUpload } from "../upload/useUpload";
import { ByMethod, useFits } from "./ByMethod";
import { type Choose, NO_CHOICES } from "./choices";
import { FileBox } from "./FileBox";
import { InstrumentBox } from "./InstrumentBox";
import { OpeningFile } from "./OpeningFile";
import { PasteBox } from "./PasteBox";
import { Preview } from "./Preview";
import { isEmpty, isLarge, NO_SOURCE, readFiles, type Source } from "./source";
import { TypingGrid } from "./TypingGrid";
import { Understood } from "./Understood";
import { useUnderstanding } from "./useUnderstanding";

function today(): string {
  return `Run of ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`;
}

type Way = "paste" | "file" | "type" | "instrument";
const WAYS: { value: Way; text: string }[] = [
  { value: "paste", text: "Paste" },
  { value: "file", text: "File" },
  { value: "type", text: "Type" },
  { value: "instrument", text: "Instrument" },
];
const HINTS: Record<Way, string> = {
  paste: "Copy the table or the plate from wherever it is, come back here and paste.",
  file: "Files of any usual kind; the originals are kept with the run.",
  instrument: "Read with a connected instrument; its values arrive here as a table.",
  type: "Type what the instrument shows, one row for each blank, standard and sample.",
};
const CHECK = {
  table: "Check the headings and roles; every one can be changed. Paste again to replace the table.",
  plate: "Every well was found. What the wells are is said in the run, on the plate itself.",
};

/** A run whose intake is looked at again: what was brought in, how it was understood, and what it is saved to. */
export interface Reopening {
  study: number;
  run: number;
  title: string;
  revision: number;
  source: Omit<Source, "number">;
  choices: Choices;
}

/** A run whose readings are to be replaced by others of the same layout. */
export type Replacing = Omit<Reopening, "source" | "choices">;

export function NewRun({ again, instead }: { again?: Reopening; instead?: Replacing }) {
  const params = useParams();
  const study = (again ?? instead)?.study ?? Number(params.study);
  const shown = useStudy(study);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const titleId = useId();
  const [title, setTitle] = useState(() => (again ?? instead)?.title ?? today());
  const [given, setGiven] = useState(title);
  const [way, setWay] = useState<Way>("paste");
  const [source, setSource] = useState<Source>(again ? { ...again.source, number: 1 } : NO_SOURCE);
  const [refused, setRefused] = useState("");
  const [dropping, setDropping] = useState(false);
  const [choices, setChoices] = useState<Choices>(again?.choices ?? NO_CHOICES);
  const [method, setMethod] = useMethodOfAddress(instead?.run);
  const key = useRef(newKey());

  const from = again ?? instead;
  const empty = isEmpty(source);
  const understood = useUnderstanding(source, choices);
  // Until a person chooses, the table itself says what it is most likely asked.
  const asks = again || empty ? undefined : (choices.question ?? understood.data?.question);
  const fits = useFits(source, choices, method, asks);
  const fitting = method && fits.data?.[0];
  const question = fitting?.question ?? choices.question ?? understood.data?.question ?? "concentration";
  const open = useMutation({
    mutationFn: (by: MethodChosen | null) =>
      instead
        ? answer(
            api.POST("/api/runs/{id}/readings", {
              params: { path: { id: instead.run } },
              body: {
                based_on: instead.revision,
                key: key.current,
                choices,
                text: source.text,
                files: source.files,
                file: source.file?.id ?? null,
                origin: source.origin,
              },
            }),
          )
        : again
          ? answer(
              api.POST("/api/runs/{id}/intake", {
                params: { path: { id: again.run } },
                body: { based_on: again.revision, key: key.current, choices: { ...choices, question } },
              }),
            )
          : answer(
              api.POST("/api/runs", {
                body: {
                  study,
                  title,
                  key: key.current,
                  text: source.text,
                  files: source.files,
                  file: source.file?.id ?? null,
                  origin: source.origin,
                  choices,
                  question,
                  method: by,
                },
              }),
            ),
    retry: (count, error) => count < 3 && error instanceof ProblemError && error.passing,
    onSuccess: (made) => {
      queries.setQueryData(keys.run(made.run.id), made);
      queries.invalidateQueries({ queryKey: ["runs"] });
      queries.invalidateQueries({ queryKey: ["run-facets"] });
      queries.invalidateQueries({ queryKey: keys.studies });
      navigate(`/runs/${made.run.id}`);
    },
  });

  const bring = (brought: Omit<Source, "number">) => {
    setSource((old) => ({ ...brought, number: old.number + 1 }));
    // What is asked is chosen by a person; the rest belongs to the table that was there.
    setChoices((old) => ({ ...NO_CHOICES, question: empty ? old.question : null }));
    setRefused("");
    key.current = newKey();
    open.reset();
  };
  const take = (text: string, origin: Source["origin"] = "pasted table") =>
    bring({ ...NO_SOURCE, text, origin });
  const { coming, upload, stop } = useUpload();
  const takeFiles = async (files: readonly File[]) => {
    if (files.length === 0 || again) return;
    if (files.length === 1 && isLarge(files[0]!)) {
      setRefused("");
      try {
        const kept = await upload(files[0]!);
        if (!kept) return;
        bring({ ...NO_SOURCE, file: kept });
      } catch (error) {
        const { title, detail } = problemOf(error);
        setRefused(`${title} ${detail}`);
        return;
      }
    } else {
      const read = await readFiles(files);
      if (typeof read === "string") {
        setRefused(read);
        return;
      }
      bring({ ...NO_SOURCE, files: read });
    }
    if (title === given) {
      const name = files[0]!.name.replace(/\.[^.]+$/, "").slice(0, 200);
      setGiven(name);
      setTitle(name);
    }
  };
  const startOver = () => {
    if (source.file) remove(source.file.id);
    setSource(NO_SOURCE);
  };
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      // Anywhere on the page but in a field of its own, a paste is the table; a run keeps what it was made from.
      if (event.target instanceof HTMLInputElement || again) return;
      const files = [...(event.clipboardData?.files ?? [])];
      if (files.length > 0) {
        event.preventDefault();
        takeFiles(files);
        return;
      }
      const text = event.clipboardData?.getData("text/plain");
      if (text === undefined) return;
      event.preventDefault();
      take(text.trim() === "" ? " " : text);
    };
    window.addEventListener("paste", onPaste);
    return () => window.removeEventListener("paste", onPaste);
  });

  // What is pressed next after a paste is the way on.
  const openButton = useRef<HTMLButtonElement>(null);
  const arrived = !empty && understood.data?.ready === true && !understood.isFetching;
  useEffect(() => {
    if (arrived && (document.activeElement === document.body || document.activeElement === null))
      openButton.current?.focus();
  }, [arrived]);
  const result = empty ? undefined : understood.data;
  // Until a person names it, a run is called after what stands in it; a file's own name is better still.
  const proposed = source.files.length === 0 && !source.file && !again ? result?.called : undefined;
  if (proposed && proposed !== given && title === given) {
    setGiven(proposed);
    setTitle(proposed);
  }
  const failure = empty
    ? null
    : (open.error ?? understood.error ?? (understood.data ? null : understood.failureReason));
  const choose: Choose = (change) => {
    setChoices((old) => ({ ...old, ...change }));
    key.current = newKey();
  };
  const readable = fitting ? !fitting.stopped : Boolean(result?.ready) && method === null;
  const ready = readable && !understood.isError && title.trim() !== "" && !open.isPending;
  return (
    <div className="flex h-full flex-col">
      <TopBar
        trail={[
          { text: shown.data?.name ?? "Study", to: `/studies/${study}` },
          ...(again
            ? [{ text: again.title, to: `/runs/${again.run}` }, { text: "What was understood" }]
            : instead
              ? [{ text: instead.title, to: `/runs/${instead.run}` }, { text: "Other readings" }]
              : [{ text: "New run" }]),
        ]}
      >
        <Button onClick={() => navigate(from ? `/runs/${from.run}` : `/studies/${study}`)}>Cancel</Button>
        <Button ref={openButton} look="accent" disabled={!ready} onClick={() => open.mutate(method)}>
          {from
            ? open.isPending
              ? "Saving …"
              : instead
                ? "Replace the readings"
                : "Save as a revision"
            : open.isPending
              ? "Opening …"
              : "Open run"}
        </Button>
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <main
          className={`flex min-w-0 flex-1 flex-col gap-3 p-5 ${dropping ? "bg-permanganate-tint" : ""}`}
          onDragOver={(event) => {
            if (!event.dataTransfer.types.includes("Files")) return;
            event.preventDefault();
            setDropping(true);
          }}
          onDragLeave={(event) => event.currentTarget === event.target && setDropping(false)}
          onDrop={(event) => {
            if (event.dataTransfer.files.length === 0) return;
            event.preventDefault();
            setDropping(false);
            takeFiles([...event.dataTransfer.files]);
          }}
        >
          <div className="flex items-end justify-between gap-4">
            <div>
              <h1 className="text-xl">
                {again
                  ? "Correct what was understood"
                  : instead
                    ? "Replace the readings"
                    : "Bring readings in"}
              </h1>
              <p className="text-graphite">
                {again
                  ? "The layout becomes what is understood here; exclusions stay where their readings do."
                  : instead
                    ? "Readings of the same layout take the place of the run's as a new revision; the old ones stay."
                    : result
                      ? CHECK[result.shape]
                      : HINTS[way]}
              </p>
            </div>
            <label
              htmlFor={titleId}
              className={`items-center gap-2 text-graphite ${from ? "hidden" : "flex"}`}
            >
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
          {!instead && (
            <p className="flex flex-wrap items-center gap-x-2 text-graphite">
              <span className="shrink-0">The question</span>
              <Pick
                label="The question"
                value={question}
                options={QUESTIONS.map(({ id, sentence, by }) => ({ value: id, text: `${sentence} ${by}` }))}
                onChange={(next) => choose({ question: next })}
              />
              {result && question === result.asks
                ? `Proposed: ${result.why}`
                : QUESTIONS.find((each) => each.id === question)?.note}
            </p>
          )}
          {!result && (
            <div>
              <Segments label="Bring readings in by" value={way} options={WAYS} onChange={setWay} />
            </div>
          )}
          {refused && (
            <p role="alert" className="rounded-md bg-cinnabar-tint px-3 py-2 text-cinnabar">
              {refused}
            </p>
          )}
          {failure != null && <Failure error={failure} />}
          {coming && <Progress text={`Sending ${coming.name} …`} share={coming.share} onStop={stop} />}
          {open.isPending && source.file && <OpeningFile file={source.file.id} name={source.file.name} />}
          {!again && (
            <ByMethod
              fits={empty ? undefined : fits.data}
              chosen={method}
              busy={open.isPending}
              onChoose={
                instead
                  ? null
                  : (next) => {
                      setMethod(next);
                      key.current = newKey();
                    }
              }
              onOpen={(by) => open.mutate(by)}
            />
          )}
          {result && (
            <p className="flex items-center gap-3 text-sm text-graphite">
              <span>
                {[source.file ?? [], source.files]
                  .flat()
                  .map((file) => file.name)
                  .join(", ")}
              </span>
              {!again && (
                <Button look="text" disabled={open.isPending} onClick={startOver}>
                  {source.origin === "typed table" ? "Back to typing" : "Start over"}
                </Button>
              )}
            </p>
          )}
          {result && (
            <Preview understood={result} choices={choices} choose={choose} onBeyond={understood.wantAll} />
          )}
          {/* What was typed stays while its understanding is looked at. */}
          <div className={result || way !== "type" ? "hidden" : "flex min-h-0 flex-1 flex-col"}>
            <TypingGrid
              active={way === "type" && !result}
              busy={understood.isFetching && !empty}
              onText={(text) => take(text, "typed table")}
            />
          </div>
          {!result && way === "paste" && (
            <PasteBox busy={understood.isFetching && !empty} onText={(text) => take(text)} />
          )}
          {!result && way === "instrument" && <InstrumentBox onText={(text) => take(text, "instrument")} />}
          {!result && way === "file" && (
            <FileBox busy={coming !== null || (understood.isFetching && !empty)} onFiles={takeFiles} />
          )}
        </main>
        <aside
          aria-label="What Dosis understood"
          className="w-[min(440px,38vw)] shrink-0 overflow-y-auto border-l border-rule bg-chalk p-5"
        >
          <Understood understood={result} choices={choices} choose={choose} />
        </aside>
      </div>
    </div>
  );
}

/** The method that the way here has named, or the run whose working is taken; a person may choose another. */
function useMethodOfAddress(instead: number | undefined) {
  const [query] = useSearchParams();
  const [id, run] = [Number(query.get("method")), instead ?? Number(query.get("like"))];
  return useState<MethodChosen | null>(id ? { id } : run ? { run } : null);
}

function Failure({ error }: { error: unknown }) {
  const problem = problemOf(error);
  return (
    <p role="alert" className="rounded-md border border-cinnabar/40 bg-cinnabar-tint px-3 py-2 text-cinnabar">
      <b>{problem.title}</b> {problem.detail}
    </p>
  );
}
