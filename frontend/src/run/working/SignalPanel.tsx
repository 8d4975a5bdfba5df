/* The choices of the signal: which reading of each place it is, or a column derived from several. */

import { useState } from "react";
import { Button } from "../../ui/Button";
import { stepOf, useOpenRun } from "../state/open";
import { DerivedDialog } from "./DerivedDialog";
import { PickRow } from "./fields";

const PLACES = [
  { value: "before", text: "before the blank" },
  { value: "after", text: "after the blank" },
] as const;

export function SignalPanel() {
  const { view, act } = useOpenRun();
  const step = stepOf(view, "signal");
  const [asking, setAsking] = useState<string | null>(null);
  const kinds = view.revision.method.steps.map((each) => each.kind);
  const after = kinds.indexOf("signal") > kinds.indexOf("blank");
  const columns = view.revision.outcome.columns ?? [];
  const peak = view.revision.outcome.peak_column;
  const chosen = step.column || (columns[0]?.name ?? "");
  const use = (column: string) =>
    act({
      kind: "change",
      changes: [{ kind: "set_step", step: { ...step, column } }],
      words: `Signal: ${column}`,
    });
  const remove = (name: string) =>
    act({
      kind: "change",
      changes: [
        {
          kind: "set_step",
          step: {
            ...step,
            derived: (step.derived ?? []).filter((each) => each.name !== name),
            column: step.column === name ? "" : step.column,
          },
        },
      ],
      words: `Remove derived column ${name}`,
    });
  return (
    <div className="flex flex-col gap-1.5">
      {columns.length > 1 && (
        <PickRow
          says="Signal is"
          value={chosen}
          options={columns.map((column) => ({
            value: column.name,
            text: column.unit ? `${column.name} / ${column.unit}` : column.name,
          }))}
          onChange={use}
        />
      )}
      {peak && peak !== chosen && (
        <Button look="text" className="text-left" onClick={() => use(peak)}>
          Use {peak}, the highest on average
        </Button>
      )}
      {((step.derived ?? []).length > 0 || columns.length > 1) && (
        <PickRow
          says="Derived"
          label="Columns are derived"
          value={after ? "after" : "before"}
          options={PLACES}
          onChange={(place) =>
            act({
              kind: "change",
              changes: [{ kind: "place_signal", after_blank: place === "after" }],
              words: `Signal: ${place} the blank`,
            })
          }
        />
      )}
      <ul>
        {(step.derived ?? []).map((each) => (
          <li key={each.name} className="flex items-baseline gap-2 border-t border-rule/70 py-1">
            <span className="min-w-0 flex-1 truncate" title={each.expression}>
              <b>{each.name}</b> = <span className="text-graphite">{each.expression}</span>
            </span>
            <Button look="text" className="text-sm" onClick={() => setAsking(each.name)}>
              Change
            </Button>
            <Button
              look="text"
              className="text-sm"
              aria-label={`Remove ${each.name}`}
              onClick={() => remove(each.name)}
            >
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <Button look="text" className="text-left" onClick={() => setAsking("")}>
        Derive a column…
      </Button>
      {asking !== null && <DerivedDialog name={asking} onClose={() => setAsking(null)} />}
    </div>
  );
}
