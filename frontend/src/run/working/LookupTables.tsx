/* Look-up tables at hand while an expression is typed: those kept, and a new one from two pasted columns. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, problemOf } from "../../api/client";
import type { Lookup } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Field } from "../../ui/Field";

interface Props {
  tables: readonly Lookup[];
  onTables: (tables: readonly Lookup[]) => void;
  onInsert: (text: string) => void;
}

export function LookupTables({ tables, onTables, onInsert }: Props) {
  const queries = useQueryClient();
  const [adding, setAdding] = useState(false);
  const [name, setName] = useState("");
  const [text, setText] = useState("");
  const kept = useQuery({ queryKey: ["lookups"], queryFn: () => answer(api.GET("/api/lookups")) });
  const all = [...tables, ...(kept.data ?? []).map((one) => one.body)].filter(
    (table, i, list) => list.findIndex((other) => other.name === table.name) === i,
  );
  const use = (table: Lookup, word: "lookup" | "lookback") => {
    if (!tables.some((one) => one.name === table.name)) onTables([...tables, table]);
    onInsert(`${word}(${/^\w+$/.test(table.name) ? table.name : `{${table.name}}`}, )`);
  };
  const save = useMutation({
    mutationFn: () => answer(api.POST("/api/lookups", { body: { name: name.trim(), text } })),
    onSuccess: (made) => {
      onTables([...tables.filter((one) => one.name !== made.name), made]);
      queries.invalidateQueries({ queryKey: ["lookups"] });
      setAdding(false);
      setName("");
      setText("");
    },
  });
  return (
    <div className="text-sm text-graphite">
      Look-up tables:{" "}
      {all.map((table) => (
        <span key={table.name} className="mr-3">
          {table.name}{" "}
          <Button
            look="text"
            title={`Second column${table.y_unit && ` (${table.y_unit})`} at a value of the first`}
            onClick={() => use(table, "lookup")}
          >
            forward
          </Button>{" "}
          <Button
            look="text"
            title={`First column${table.x_unit && ` (${table.x_unit})`} at a value of the second`}
            onClick={() => use(table, "lookback")}
          >
            back
          </Button>
        </span>
      ))}
      {!adding && (
        <Button look="text" onClick={() => setAdding(true)}>
          New table…
        </Button>
      )}
      {adding && (
        <div className="mt-2 flex flex-col gap-2 rounded-md border border-rule p-2.5">
          <Field label="Name of the table" value={name} autoFocus maxLength={120} onChange={setName} />
          <textarea
            aria-label="Two columns of the table"
            rows={4}
            value={text}
            spellCheck={false}
            placeholder="Paste two columns, with headings or without"
            onChange={(event) => setText(event.target.value)}
            className="rounded-md border border-rule bg-chalk px-2 py-1 text-ink placeholder:text-graphite"
          />
          {save.error && <p className="text-cinnabar">{problemOf(save.error).detail}</p>}
          <div className="flex justify-end gap-2">
            <Button look="text" onClick={() => setAdding(false)}>
              Cancel
            </Button>
            <Button disabled={!name.trim() || !text.trim() || save.isPending} onClick={() => save.mutate()}>
              Save the table
            </Button>
          </div>
        </div>
      )}
    </div>
  );
}
