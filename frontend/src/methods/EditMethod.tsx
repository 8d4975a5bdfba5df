/* Other words, free steps or counts of a method: kept as its next version. */
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import type { MethodView } from "../api/schema";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { FreeSteps, Lines } from "./FreeSteps";
import { methodKeys } from "./queries";

export function EditMethod({ view, onClose }: { view: MethodView; onClose: () => void }) {
  const { body, head, number, steps } = view;
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [about, setAbout] = useState(body.about ?? "");
  const [source, setSource] = useState(body.source ?? "");
  const [free, setFree] = useState<string[]>([...(body.free ?? [])]);
  const [counts, setCounts] = useState({
    levels: String(body.expected?.levels ?? 0),
    blanks: String(body.expected?.blanks ?? 0),
    qcs: String(body.expected?.qcs ?? 0),
  });
  const [words, setWords] = useState("");
  const whole = Object.values(counts).every((each) => /^\d{1,5}$/.test(each.trim()));
  const next = (head.versions.at(-1)?.number ?? 0) + 1;
  const keep = (use: boolean) =>
    attempted(
      answer(
        api.POST("/api/methods/{id}/versions", {
          params: { path: { id: head.id } },
          body: {
            based_on: number,
            about,
            source,
            free,
            words,
            use,
            levels: Number(counts.levels),
            blanks: Number(counts.blanks),
            qcs: Number(counts.qcs),
          },
        }),
      ).then((made) => {
        queries.invalidateQueries({ queryKey: methodKeys.all });
        onClose();
        navigate(`/methods/${made.id}?version=${made.version}`);
      }),
      use ? `Version ${next} is in use.` : `Version ${next} is kept as a draft.`,
    );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep(true);
  };
  return (
    <Ask
      wide
      open
      title={`Version ${next} of “${head.name}”`}
      detail="The steps themselves are changed in a run, which is then kept under the same name."
      onClose={onClose}
    >
      <form onSubmit={submit} className="flex flex-col gap-3">
        <Lines label="What it is for" value={about} onChange={setAbout} most={4000} rows={4} />
        <Lines label="Source" value={source} onChange={setSource} most={1000} rows={2} />
        <FreeSteps steps={steps} free={free} onChange={setFree} />
        <div className="flex gap-3">
          {(
            [
              ["levels", "Levels at least"],
              ["blanks", "Blanks or controls"],
              ["qcs", "Known samples"],
            ] as const
          ).map(([key, label]) => (
            <Field
              key={key}
              label={label}
              value={counts[key]}
              inputMode="numeric"
              onChange={(value) => setCounts((old) => ({ ...old, [key]: value }))}
            />
          ))}
        </div>
        <Field label="What is new in this version" value={words} onChange={setWords} maxLength={1000} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button disabled={!whole} onClick={() => keep(false)}>
            Keep as a draft
          </Button>
          <Button look="accent" type="submit" disabled={!whole}>
            Keep and take in use
          </Button>
        </div>
      </form>
    </Ask>
  );
}
