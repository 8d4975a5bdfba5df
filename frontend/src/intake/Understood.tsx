/* “What Dosis understood”: one statement for each thing taken for granted, with the way to change it beside it. */
import { useEffect, useState } from "react";
import type { Choices, Statement, Understanding } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Rich } from "../ui/Rich";
import { type Choose, NO_CHOICES } from "./choices";

interface Props {
  understood: Understanding | undefined;
  choices: Choices;
  choose: Choose;
}

const MARKS: Record<Statement["state"], { text: string; label: string; color: string }> = {
  ok: { text: "✓", label: "understood", color: "text-malachite" },
  look: { text: "!", label: "look at this", color: "text-iodine" },
  stop: { text: "×", label: "stops here", color: "text-cinnabar" },
};

export function Understood({ understood, choices, choose }: Props) {
  // What a column of readings is called by this question; counts have no name of their own.
  const reading = understood?.kinds?.find((each) => each.kind === "reading")?.text;
  return (
    <>
      <h2 className="mb-3 text-lg">What Dosis understood</h2>
      {understood ? (
        <ul className="border-t border-rule">
          {understood.statements.map((statement) => (
            <li key={statement.id} className="flex gap-3 border-b border-rule py-2.5">
              <span
                role="img"
                className={`w-3 font-bold ${MARKS[statement.state].color}`}
                aria-label={MARKS[statement.state].label}
              >
                {MARKS[statement.state].text}
              </span>
              <p className="min-w-0 flex-1">
                <Rich text={statement.text} />
              </p>
              <div className="shrink-0 text-right">
                <ChangeOf statement={statement} understood={understood} choices={choices} choose={choose} />
              </div>
            </li>
          ))}
          {understood.ready && reading !== "count" && (
            <li className="flex items-center gap-3 border-b border-rule py-2.5">
              <span role="img" aria-label="understood" className="w-3 font-bold text-malachite">
                ✓
              </span>
              <span className="flex-1">
                <b>{reading === "y" ? "y" : "The signal"} is called</b>
              </span>
              <Field
                label="Name of the signal"
                value={understood.signal_name}
                onCommit={(signal_name) => choose({ signal_name })}
              />
              <Field
                label="Unit of the signal"
                placeholder="unit"
                narrow
                value={understood.signal_unit}
                onCommit={(signal_unit) => choose({ signal_unit })}
              />
            </li>
          )}
        </ul>
      ) : (
        <p className="text-graphite">
          Columns, units, standards, blanks and samples are recognized from what you paste, and listed here.
        </p>
      )}
      <div className="mt-5 rounded-lg border border-rule p-3.5">
        <p className="font-semibold">The readings stay as they came.</p>
        <p className="text-graphite">
          Every correction is a step you can see, change and undo. The pasted text is stored with the run.
        </p>
      </div>
    </>
  );
}

function ChangeOf({
  statement,
  understood,
  choices,
  choose,
}: { statement: Statement } & Props & { understood: Understanding }) {
  switch (statement.change) {
    case "header":
      return (
        <Button look="text" onClick={() => choose({ header: !understood.header, rows: [], cells: [] })}>
          {understood.header ? "First row is data" : "First row is a heading"}
        </Button>
      );
    case "decimal":
      return (
        <div className="flex flex-col items-end gap-1">
          <Pick
            label="Decimal sign"
            value={understood.decimal}
            options={[
              { value: ".", text: "point" },
              { value: ",", text: "comma" },
            ]}
            onChange={(decimal) => choose({ decimal })}
          />
          {understood.separator && (
            <Pick
              label="Separator"
              value={understood.separator}
              options={[
                { value: "\t", text: "tab" },
                { value: ";", text: "semicolon" },
                { value: ",", text: "comma" },
              ]}
              onChange={(separator) => choose({ separator, columns: [] })}
            />
          )}
        </div>
      );
    case "encoding":
      return (
        <Pick
          label="Letters are of"
          value={choices.encoding ?? "cp1252"}
          options={[
            { value: "cp1252", text: "Windows (1252)" },
            { value: "cp850", text: "Western Europe (850)" },
            { value: "cp437", text: "the first PCs (437)" },
          ]}
          onChange={(encoding) => choose({ encoding })}
        />
      );
    case "unit":
      return <UnitChange key={understood.level_unit} unit={understood.level_unit} choose={choose} />;
    case "stack":
      return (
        <Button look="text" onClick={() => choose({ stack: false })}>
          Keep rows apart
        </Button>
      );
    case "turn":
      return (
        <Button
          look="text"
          onClick={() => choose({ turn: !understood.turned, columns: [], rows: [], cells: [] })}
        >
          {understood.turned ? "Turn it back: rows as they came" : "Turn it: headings down the first column"}
        </Button>
      );
    case "shape":
      return (
        <Button
          look="text"
          onClick={() => choose({ shape: understood.shape === "plate" ? "table" : "plate" })}
        >
          {understood.shape === "plate" ? "Read it as a table" : "Read it as a plate"}
        </Button>
      );
    case "sheet":
      return (
        <Pick
          label="Sheet"
          value={understood.sheet == null ? "all" : String(understood.sheet)}
          options={[
            ...(understood.sheet == null ? [{ value: "all", text: "all together" }] : []),
            ...understood.sheets.map((name, i) => ({ value: String(i), text: name })),
          ]}
          onChange={(sheet) => sheet !== "all" && choose({ ...NO_CHOICES, sheet: Number(sheet) })}
        />
      );
    case "across":
      return (
        <Pick
          label="Columns of readings are"
          value={understood.across}
          options={[
            { value: "replicates", text: "replicates" },
            { value: "series", text: "series" },
            { value: "channels", text: "different readings" },
            { value: "pairs", text: "pairs of x and y" },
          ]}
          onChange={(across) => choose({ across })}
        />
      );
    case "columns":
      return <span className="text-sm text-graphite">change above the columns</span>;
    case "roles":
      return choices.stack ? (
        <span className="text-sm text-graphite">change in the rows</span>
      ) : (
        <Button look="text" onClick={() => choose({ stack: true })}>
          Join matching rows
        </Button>
      );
    case "log":
      return (
        <Button look="text" onClick={() => choose({ log_levels: false })}>
          They are no logarithms
        </Button>
      );
    case "zero":
      return (
        <span className="flex flex-col items-end gap-1">
          <Pick
            label="Which log dose stands for none"
            value={choices.zero_level == null ? "none" : "lowest"}
            options={[
              { value: "none", text: "none of them" },
              { value: "lowest", text: `${understood.zero} does` },
            ]}
            onChange={(which) => choose({ zero_level: which === "lowest" ? understood.zero : null })}
          />
          <Button look="text" onClick={() => choose({ log_levels: false })}>
            They are no logarithms
          </Button>
        </span>
      );
    case "question":
      return <span className="text-sm text-graphite">change above</span>;
    case "cells":
      return <span className="text-sm text-graphite">change in the cell</span>;
    default:
      return null;
  }
}

/** Another unit is either another name for the same numbers, or the same levels in other numbers; never silently one. */
function UnitChange({ unit, choose }: { unit: string; choose: Choose }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const field = (
    <Field
      label="Unit of the levels"
      placeholder="unit"
      narrow
      value={unit}
      onCommit={(next) =>
        unit === "" || next === "" ? choose({ level_unit: next, level_shown: null }) : setWanted(next)
      }
    />
  );
  if (wanted === null) return field;
  return (
    <span role="group" aria-label={`Unit ${wanted}`} className="flex flex-col items-end gap-1">
      {field}
      <Button look="text" onClick={() => choose({ level_unit: wanted, level_shown: null })}>
        The numbers are in {wanted} (relabel)
      </Button>
      <Button look="text" onClick={() => choose({ level_shown: wanted })}>
        Show in {wanted} (convert)
      </Button>
    </span>
  );
}

interface FieldProps {
  label: string;
  value: string;
  placeholder?: string;
  narrow?: boolean;
  onCommit: (value: string) => void;
}

/** A small text field that tells when it is left or Enter is pressed, not at every key. */
function Field({ label, value, placeholder, narrow, onCommit }: FieldProps) {
  const [draft, setDraft] = useState(value);
  useEffect(() => setDraft(value), [value]);
  const commit = () => draft !== value && onCommit(draft.trim());
  return (
    <input
      aria-label={label}
      placeholder={placeholder}
      value={draft}
      maxLength={narrow ? 40 : 200}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => event.key === "Enter" && commit()}
      className={`rounded-md border border-rule px-2 py-0.5 ${narrow ? "w-[72px]" : "w-[120px]"}`}
    />
  );
}
