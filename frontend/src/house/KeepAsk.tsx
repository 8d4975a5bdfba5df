/* The questions asked before something is done to runs: a name, words, tags, a study, or whether to throw them away. */
import { type FormEvent, lazy, Suspense, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { useStudies } from "../api/hooks";
import { newKey } from "../api/key";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Field } from "../ui/Field";
import { countOf, useKeeping } from "./keeping";

const KeepMethod = lazy(async () => ({ default: (await import("../methods/KeepMethod")).KeepMethod }));

export type Asked = "rename" | "describe" | "tags" | "move" | "bin" | "duplicate" | "method";
type Formed = Exclude<Asked, "method">;

/** What is known of a run that something is done to. */
export interface Kept {
  id: number;
  title: string;
  description?: string;
  tags?: readonly string[];
  study_id: number;
  archived?: boolean;
  binned?: boolean;
}

interface Props {
  asked: Asked;
  runs: readonly Kept[];
  onDone: (done: boolean) => void;
}

const TITLES: Record<Formed, string> = {
  rename: "Rename the run",
  describe: "Describe the run",
  tags: "Tags",
  move: "Move to a study",
  bin: "Throw into the bin",
  duplicate: "Duplicate the run",
};
const DETAILS: Partial<Record<Formed, string>> = {
  tags: "Words to find runs by, with commas between them.",
  duplicate: "The new run has the same readings and begins where this one stands; its history is its own.",
};

export function KeepAsk(props: Props) {
  const { asked, runs, onDone } = props;
  if (asked === "method")
    return (
      <Suspense fallback={null}>
        <KeepMethod run={runs[0]!.id} onClose={() => onDone(false)} />
      </Suspense>
    );
  const detail =
    asked === "bin"
      ? `${runs.length === 1 ? `“${runs[0]!.title}” goes` : `${countOf(runs)} go`} into the bin with readings, revisions, figures and reports. For 30 days it can all be taken out again; then only the Ledger says that it was there.`
      : DETAILS[asked];
  return (
    <Ask open title={TITLES[asked]} {...(detail && { detail })} onClose={() => onDone(false)}>
      <Form {...props} asked={asked} />
    </Ask>
  );
}

function Form({ asked, runs, onDone }: Props & { asked: Formed }) {
  const { keep, refresh } = useKeeping();
  const navigate = useNavigate();
  const studies = useStudies();
  const [one] = runs as [Kept];
  const [key] = useState(newKey);
  const before = asked === "tags" ? (runs.length === 1 ? (one.tags ?? []) : []) : [];
  const [text, setText] = useState(() =>
    asked === "describe"
      ? (one.description ?? "")
      : asked === "tags"
        ? before.join(", ")
        : asked === "duplicate"
          ? `${one.title}, again`.slice(0, 200)
          : one.title,
  );
  const others = (studies.data ?? []).filter((each) => !each.archived);
  const [study, setStudy] = useState(String(one.study_id));
  const ids = runs.map((each) => each.id);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (asked === "rename") onDone(await keep(ids, { kind: "rename", title: text }, "Renamed."));
    else if (asked === "describe") onDone(await keep(ids, { kind: "describe", text }, "Described."));
    else if (asked === "move")
      onDone(
        await keep(
          ids,
          { kind: "move", study: Number(study) },
          `${countOf(runs)} moved.`,
          runs.every((each) => each.study_id === one.study_id)
            ? { kind: "move", study: one.study_id }
            : undefined,
        ),
      );
    else if (asked === "bin")
      onDone(
        await keep(ids, { kind: "bin", binned: true }, `${countOf(runs)} in the bin.`, {
          kind: "bin",
          binned: false,
        }),
      );
    else if (asked === "tags") {
      const tags = [...new Set(text.split(",").map((each) => each.trim()))].filter(Boolean);
      const add = tags.filter((each) => !before.includes(each));
      const remove = before.filter((each) => !tags.includes(each));
      // Of several runs some may have had a tag before, so that taking it off again would not bring back what was.
      const back = runs.length === 1 ? { kind: "tags" as const, add: remove, remove: add } : undefined;
      onDone(await keep(ids, { kind: "tags", add, remove }, "Tagged.", back));
    } else {
      const path = { params: { path: { id: one.id } }, body: { key, title: text } };
      const made = answer(api.POST("/api/runs/{id}/duplicate", path));
      if (!(await attempted(made))) return;
      refresh();
      onDone(true);
      navigate(`/runs/${(await made).run.id}`);
    }
  };
  const named = asked === "rename" || asked === "duplicate";
  return (
    <form onSubmit={submit} className="flex flex-col gap-3">
      {named && <Field label="Name" value={text} onChange={setText} maxLength={200} autoFocus />}
      {asked === "describe" && (
        <textarea
          aria-label="Description"
          // biome-ignore lint/a11y/noAutofocus: the dialog was opened to write in it
          autoFocus
          rows={5}
          maxLength={4000}
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="rounded-md border border-rule bg-paper px-2.5 py-1.5"
        />
      )}
      {asked === "tags" && <Field label="Tags" value={text} onChange={setText} maxLength={800} autoFocus />}
      {asked === "move" && (
        <p className="flex items-center gap-2">
          {runs.length === 1 ? "To" : `${countOf(runs)} to`}
          <Pick
            label="Study"
            value={study}
            options={others.map((each) => ({ value: String(each.id), text: each.name }))}
            onChange={setStudy}
          />
        </p>
      )}
      <div className="flex justify-end gap-2">
        <Button onClick={() => onDone(false)}>Cancel</Button>
        <Button look="accent" type="submit" disabled={named && !text.trim()}>
          {
            {
              rename: "Rename",
              describe: "Keep",
              tags: "Keep tags",
              move: "Move",
              bin: "Throw away",
              duplicate: "Duplicate",
            }[asked]
          }
        </Button>
      </div>
    </form>
  );
}
