/* Keeping the working of a run as a method, or as the next version of one. */
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { useRun } from "../api/hooks";
import type { MethodHead, RunView } from "../api/schema";
import { SECTIONS, type Section } from "../report/sections";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { Pending } from "../ui/Message";
import { Ticks } from "../ui/Ticks";
import { FreeSteps, Lines } from "./FreeSteps";
import { methodKeys, useMethod, useMethods } from "./queries";

// What prepares readings can differ from day to day; what decides the answers should not.
const USUALLY_FREE = ["replicates", "limits"];

export function KeepMethod({ run, onClose }: { run: number; onClose: () => void }) {
  const { data, error, refetch } = useRun(run);
  const methods = useMethods();
  return (
    <Ask
      wide
      open
      title="Keep as a method"
      detail="The question, the working with its settings, what stands where, the levels, the checks and the look of the figure. Readings, samples and exclusions stay with the run."
      onClose={onClose}
    >
      {data && methods.data ? (
        <Former view={data} methods={methods.data} onClose={onClose} />
      ) : (
        <Pending failure={error ?? methods.error} onRetry={refetch} />
      )}
    </Ask>
  );
}

function Former(props: { view: RunView; methods: readonly MethodHead[]; onClose: () => void }) {
  const before = props.view.run.method?.id;
  const { data, isPending } = useMethod(before ?? 0, null);
  if (before !== undefined && isPending) return null;
  return (
    <Form {...props} about={data?.body.about ?? ""} source={data?.body.source ?? ""} free={data?.body.free} />
  );
}

interface Props {
  view: RunView;
  methods: readonly MethodHead[];
  onClose: () => void;
  about: string;
  source: string;
  free: readonly string[] | undefined;
}

function Form({ view, methods, onClose, ...before }: Props) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { run, revision } = view;
  const steps = revision.outcome.steps;
  const [name, setName] = useState(run.method?.name ?? run.title.slice(0, 120));
  const [about, setAbout] = useState(before.about);
  const [source, setSource] = useState(before.source);
  const [words, setWords] = useState("");
  const [free, setFree] = useState<string[]>([
    ...(before.free ?? steps.map((step) => step.kind).filter((kind) => USUALLY_FREE.includes(kind))),
  ]);
  const [sections, setSections] = useState<Section[]>(() => SECTIONS.map(({ id }) => id));
  const same = methods.find((each) => each.name.toLowerCase() === name.trim().toLowerCase());
  // All of them is what a report has anyway, also those that a later version of Dosis brings.
  const kept = sections.length === SECTIONS.length ? [] : sections;
  const next = (same?.versions.at(-1)?.number ?? 0) + 1;
  const keep = (use: boolean) =>
    attempted(
      answer(
        api.POST("/api/methods", {
          body: { run: run.id, name, about, source, words, free, sections: kept, use },
        }),
      ).then((made) => {
        queries.invalidateQueries({ queryKey: methodKeys.all });
        queries.invalidateQueries({ queryKey: ["run"] });
        onClose();
        navigate(`/methods/${made.id}?version=${made.version}`);
      }),
      use ? "Kept, and in use." : "Kept as a draft.",
    );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep(true);
  };
  return (
    <form onSubmit={submit} className="flex flex-col gap-3">
      <Field label="Name" value={name} onChange={setName} maxLength={120} autoFocus />
      <p className="text-graphite" aria-live="polite">
        {same
          ? `There is a method of this name; this becomes its version ${next}.`
          : "A new method; this is its version 1."}
      </p>
      <Lines label="What it is for" value={about} onChange={setAbout} most={4000} rows={2} />
      <Lines label="Source" value={source} onChange={setSource} most={1000} rows={1} />
      <FreeSteps steps={steps} free={free} onChange={setFree} />
      <Ticks
        legend="Its reports have"
        columns={3}
        options={SECTIONS.map(({ id, text }) => ({ value: id, text }))}
        chosen={sections}
        onChange={setSections}
      />
      {same && <Field label="What is new" value={words} onChange={setWords} maxLength={1000} />}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button disabled={!name.trim()} onClick={() => keep(false)}>
          Keep as a draft
        </Button>
        <Button look="accent" type="submit" disabled={!name.trim()}>
          Keep and take in use
        </Button>
      </div>
    </form>
  );
}
