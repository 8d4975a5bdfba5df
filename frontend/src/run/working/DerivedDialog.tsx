/* A derived column, computed for the first readings while it is typed; what is wrong is said under the place. */

import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useId, useRef, useState } from "react";
import { answer, api } from "../../api/client";
import type { Lookup, SignalLook } from "../../api/schema";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Field } from "../../ui/Field";
import { stepOf, useOpenRun } from "../state/open";
import { LookupTables } from "./LookupTables";

const EXAMPLES =
  "−log10(T/100) for absorbance from percent transmittance; {450 nm} − {620 nm}; {260 nm}/{280 nm}";

export function DerivedDialog({ name: old, onClose }: { name: string; onClose: () => void }) {
  const { view, act } = useOpenRun();
  const step = stepOf(view, "signal");
  const before = (step.derived ?? []).find((each) => each.name === old);
  const [name, setName] = useState(before?.name ?? "");
  const [unit, setUnit] = useState(before?.unit ?? "");
  const [expression, setExpression] = useState(before?.expression ?? "");
  const [tables, setTables] = useState<readonly Lookup[]>(step.tables ?? []);
  const field = useRef<HTMLTextAreaElement>(null);
  const fieldId = useId();
  const others = (step.derived ?? []).filter((each) => each.name !== old);
  const used = tables.filter(
    (table) => expression.includes(table.name) || others.some((o) => o.expression.includes(table.name)),
  );
  const named = name.trim() || "Derived";
  const next = {
    ...step,
    column: named,
    derived: [...others, { name: named, expression, unit: unit.trim() }],
    tables: [...used],
  };
  const [settled, setSettled] = useState("");
  const wanted = JSON.stringify(expression.trim() ? next : { ...step, derived: others });
  useEffect(() => {
    const timer = setTimeout(() => setSettled(wanted), 120);
    return () => clearTimeout(timer);
  }, [wanted]);
  const look = useQuery({
    queryKey: ["signal", view.run.id, view.revision.number, settled],
    enabled: settled !== "",
    placeholderData: (previous) => previous,
    gcTime: 0,
    queryFn: () =>
      answer(
        api.POST("/api/runs/{id}/signal", {
          params: { path: { id: view.run.id } },
          body: JSON.parse(settled),
        }),
      ),
  });
  const problem = expression.trim() ? look.data?.problem : null;
  const insert = (text: string) => {
    const at = field.current?.selectionStart ?? expression.length;
    setExpression(expression.slice(0, at) + text + expression.slice(at));
    field.current?.focus();
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!expression.trim() || problem || !name.trim()) return;
    act({
      kind: "change",
      changes: [{ kind: "set_step", step: next }],
      words: `Signal: ${named} = ${expression}`,
    });
    onClose();
  };
  return (
    <Ask title={old ? `Change ${old}` : "Derive a column"} open onClose={onClose} wide>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <div className="flex gap-3">
          <Field label="Name" value={name} autoFocus maxLength={200} className="flex-1" onChange={setName} />
          <Field
            label="Unit, if it is not found by itself"
            value={unit}
            maxLength={40}
            className="w-[200px]"
            onChange={setUnit}
          />
        </div>
        <div className="flex flex-col gap-0.5">
          <label htmlFor={fieldId} className="text-sm text-graphite">
            Expression
          </label>
          <textarea
            ref={field}
            id={fieldId}
            rows={2}
            value={expression}
            spellCheck={false}
            placeholder={EXAMPLES}
            aria-invalid={problem ? true : undefined}
            onChange={(event) => setExpression(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === "Enter" && !event.shiftKey) submit(event);
            }}
            className="rounded-md border border-rule bg-chalk px-2 py-1 placeholder:text-graphite"
          />
          {problem && (
            <p role="alert" className="text-sm text-cinnabar">
              {problem.position != null && (
                <span className="mr-1.5 rounded bg-cinnabar-tint px-1">
                  {expression.slice(0, problem.position).slice(-12)}
                  <b className="underline">
                    {expression.slice(problem.position, problem.position + 1) || "‸"}
                  </b>
                </span>
              )}
              {problem.text}
            </p>
          )}
        </div>
        <p className="text-sm text-graphite">
          Columns:{" "}
          {look.data?.columns
            .filter((column) => column.name !== named)
            .slice(0, 14)
            .map((column) => (
              <Button
                key={column.name}
                look="text"
                className="mr-2"
                onClick={() => insert(/^[A-Za-z_]\w*$/.test(column.name) ? column.name : `{${column.name}}`)}
              >
                {column.name}
              </Button>
            ))}
        </p>
        <LookupTables tables={tables} onTables={setTables} onInsert={insert} />
        {look.data && <Rows look={look.data} named={named} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="accent"
            type="submit"
            disabled={!expression.trim() || !name.trim() || problem != null}
          >
            Use it as the signal
          </Button>
        </div>
      </form>
    </Ask>
  );
}

function Rows({ look, named }: { look: SignalLook; named: string }) {
  const shown = look.columns.length > 6 ? [...look.columns.slice(0, 5), look.columns.at(-1)!] : look.columns;
  return (
    <table aria-label="First readings" className="text-right text-md">
      <thead>
        <tr className="border-b border-rule text-sm text-graphite">
          {shown.map((column) => (
            <th
              key={column.name}
              scope="col"
              className={`px-2 py-1 font-normal ${column.name === named ? "font-semibold text-permanganate" : ""}`}
            >
              {column.unit ? `${column.name} / ${column.unit}` : column.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {shown[0]?.shown.map((_, i) => (
          <tr key={i} className="border-b border-rule/60">
            {shown.map((column) => (
              <td key={column.name} className={`px-2 ${column.name === named ? "font-semibold" : ""}`}>
                {column.shown[i]}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
