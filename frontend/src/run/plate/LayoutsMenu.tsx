/* Layouts by name: keep this plate's, lay a kept one on this plate, remove one. */

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { answer, api, problemOf } from "../../api/client";
import { Button } from "../../ui/Button";
import { Field } from "../../ui/Field";
import { useOpenRun } from "../state/open";

export function LayoutsMenu({ plate }: { plate: number }) {
  const { view, act } = useOpenRun();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const size = view.readings.plates![plate]!;
  const kept = useQuery({
    queryKey: ["layouts"],
    enabled: open,
    queryFn: () => answer(api.GET("/api/layouts")),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ["layouts"] });
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/runs/{id}/layouts", {
          params: { path: { id: view.run.id } },
          body: { name: name.trim(), plate },
        }),
      ),
    onSuccess: () => {
      toast.success(`Layout “${name.trim()}” saved.`);
      setName("");
      refresh();
    },
    onError: (error) => toast.error(problemOf(error).detail),
  });
  const remove = useMutation({
    mutationFn: (id: number) => answer(api.DELETE("/api/layouts/{id}", { params: { path: { id } } })),
    onSettled: refresh,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) save.mutate();
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button look="text" className="text-sm">
          Layouts…
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="Saved layouts"
          className="z-50 flex w-[320px] flex-col gap-2 rounded-lg border border-rule bg-chalk p-3 shadow-lg"
        >
          <h3 className="text-base">Saved layouts</h3>
          {kept.data?.length === 0 && (
            <p className="text-graphite">None yet. Lay a plate out, then save its layout here.</p>
          )}
          {kept.isError && <p className="text-cinnabar">The layouts could not be fetched.</p>}
          <ul className="max-h-[240px] overflow-y-auto">
            {kept.data?.map(({ id, body }) => (
              <li key={id} className="flex items-center gap-2 border-b border-rule/70 py-1">
                <span className="min-w-0 flex-1 truncate" title={body.name}>
                  {body.name}
                </span>
                <span className="text-sm text-graphite">
                  {body.rows} × {body.columns}
                </span>
                <Button
                  look="text"
                  className="text-sm"
                  title={
                    body.rows === size.rows && body.columns === size.columns
                      ? undefined
                      : `Made for a plate of ${body.rows} × ${body.columns} wells`
                  }
                  onClick={() => {
                    act({
                      kind: "change",
                      changes: [{ kind: "apply_layout", layout: body, plate }],
                      words: `Apply layout “${body.name}”`,
                    });
                    setOpen(false);
                  }}
                >
                  Apply
                </Button>
                <Button
                  look="text"
                  className="text-sm"
                  aria-label={`Remove layout ${body.name}`}
                  onClick={() => remove.mutate(id)}
                >
                  Remove
                </Button>
              </li>
            ))}
          </ul>
          <PasteList onDone={() => setOpen(false)} />
          <form onSubmit={submit} className="flex items-end gap-2">
            <Field
              label="Save this plate's layout as"
              value={name}
              maxLength={120}
              className="flex-1"
              onChange={setName}
            />
            <Button type="submit" disabled={!name.trim() || save.isPending}>
              Save
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A list of wells with their names and doses, pasted onto the plates. */
function PasteList({ onDone }: { onDone: () => void }) {
  const { act } = useOpenRun();
  const [text, setText] = useState("");
  const read = useMutation({
    mutationFn: () => answer(api.POST("/api/intake/wells", { body: { text } })),
    onSuccess: (change) => {
      act({ kind: "change", changes: [change], words: `${change.wells.length} wells described by a list` });
      onDone();
    },
  });
  return (
    <form
      className="flex flex-col gap-1 border-b border-rule/70 pb-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) read.mutate();
      }}
    >
      <label className="flex flex-col gap-0.5 text-sm text-graphite">
        Or paste a list with headings: plate, well, name, series, dose
        <textarea
          aria-label="List of wells"
          rows={3}
          value={text}
          placeholder={"Well\tName\tDose (µM)\nB2\tTP-17\t10"}
          onChange={(event) => setText(event.target.value)}
          className="rounded-md border border-rule bg-chalk px-2 py-1 text-md text-ink"
        />
      </label>
      {read.isError && (
        <p role="alert" className="text-sm text-cinnabar">
          {problemOf(read.error).detail}
        </p>
      )}
      <Button type="submit" className="self-end" disabled={!text.trim() || read.isPending}>
        Lay this list out
      </Button>
    </form>
  );
}
