/* The pasted table as it was understood: what each column, row and cell was taken for, each changeable in place. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { DropdownMenu } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { ROLES, rowRolesOf } from "../api/declared";
import type { CellChoice, CellMark, Choices, ColumnKind, Role, Row, Understanding } from "../api/schema";
import { Pick } from "../ui/Choice";
import { MENU_ITEM } from "../ui/menu";
import { RoleMark } from "../ui/RoleMark";
import type { Choose } from "./choices";
import { useColumnsInView } from "./useColumnsInView";

const MEANINGS: { value: CellChoice["meaning"]; text: string }[] = [
  { value: "above", text: "Above the instrument's range" },
  { value: "below", text: "Below the instrument's range" },
  { value: "missing", text: "Missing" },
  { value: "text", text: "Text, not a reading" },
];
const NUMERIC: ColumnKind[] = ["level", "reading", "dilution", "error"];
const TINTS: Partial<Record<CellMark, string>> = {
  above: "bg-iodine-tint text-iodine",
  below: "bg-iodine-tint text-iodine",
  odd: "bg-cinnabar-tint text-cinnabar",
  label: "bg-paper text-graphite font-semibold",
  name: "bg-cupric-tint",
};
const ODD: CellMark[] = ["above", "below", "odd"];
const ROW = 28;

interface Props {
  understood: Understanding;
  choices: Choices;
  choose: Choose;
  /** Called when rows are in view that have not come yet. */
  onBeyond: () => void;
}

export function Preview({ understood, choices, choose, onBeyond }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: understood.row_count,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const beyond = (rows.getVirtualItems().at(-1)?.index ?? 0) >= understood.rows.length;
  useEffect(() => {
    if (beyond) onBeyond();
  }, [beyond, onBeyond]);
  const plated = understood.shape === "plate";
  // A plate grid has no columns of its own meaning; its cells are marked one by one.
  const columns: Understanding["columns"] = plated
    ? (understood.rows[0]?.cells ?? []).map(() => ({ heading: "", kind: "reading", unit: "" }))
    : understood.columns;
  const wide = useColumnsInView(scroller, columns.length, plated ? 44 : 156, plated ? 54 : 96);
  const grid = { gridTemplateColumns: `${plated ? "44px" : "44px 112px"} ${wide.template}` };
  const setKind = (column: number, kind: ColumnKind) =>
    choose({ columns: [...choices.columns!.filter((c) => c.column !== column), { column, kind }] });
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [anchor, setAnchor] = useState<number | null>(null);
  const [editing, setEditing] = useState<{ row: number; column: number } | null>(null);
  const roles = rowRolesOf(understood.question).map(({ role, title }) => ({ value: role, text: title }));
  /** Those of the question, and what a row is taken for where the question has no such role. */
  const rolesFor = (role: Role) =>
    roles.some((each) => each.value === role) ? roles : [...roles, { value: role, text: ROLES[role].title }];
  const kinds = (understood.kinds ?? []).map(({ kind, text }) => ({ value: kind, text }));
  const was = new Map((understood.edited ?? []).map((each) => [`${each.row} ${each.column}`, each.was]));
  const chooseRow = (row: number, stretch: boolean) => {
    if (stretch && anchor !== null) {
      const [from, to] = [Math.min(anchor, row), Math.max(anchor, row)];
      const between = understood.rows.filter((each) => each.role && each.number >= from && each.number <= to);
      setChosen(new Set([...chosen, ...between.map((each) => each.number)]));
      return;
    }
    setAnchor(row);
    setChosen(new Set(chosen.has(row) ? [...chosen].filter((each) => each !== row) : [...chosen, row]));
  };
  /** Of a row, or of all that are chosen when it is one of them. */
  const setRole = (row: number, role: Role) => {
    const rows = chosen.has(row) ? [...chosen] : [row];
    choose({
      rows: [
        ...choices.rows!.filter((c) => !rows.includes(c.row)),
        ...rows.map((each) => ({ row: each, role })),
      ],
    });
  };
  const edit = (row: number, column: number, text: string | null) => {
    setEditing(null);
    if (text === null) return;
    const others = choices.edits!.filter((each) => each.row !== row || each.column !== column);
    const back = was.get(`${row} ${column}`) === text;
    choose({ edits: back ? others : [...others, { row, column, text }] });
  };
  const isEdited = (row: number, column: number) => editing?.row === row && editing.column === column;
  const setMeaning = (row: number, column: number, meaning: CellChoice["meaning"]) =>
    choose({
      cells: [
        ...choices.cells!.filter((c) => c.row !== row || c.column !== column),
        { row, column, meaning },
      ],
    });
  return (
    <div
      ref={scroller}
      role="table"
      aria-label={plated ? "Plate as it came" : "Pasted table"}
      aria-rowcount={understood.row_count}
      aria-colcount={columns.length + (plated ? 1 : 2)}
      className="min-h-0 flex-1 overflow-auto rounded-lg border border-rule bg-chalk text-md"
    >
      <div
        role="row"
        style={{ ...grid, minWidth: wide.total }}
        className={`sticky top-0 z-10 border-b border-rule bg-paper ${plated ? "hidden" : "grid"}`}
      >
        <span role="columnheader" className="px-2 py-1.5 text-sm text-graphite">
          row
        </span>
        <span role="columnheader" className="px-2 py-1.5 text-sm text-graphite">
          role
        </span>
        {wide.skips && <span role="presentation" />}
        {columns.slice(wide.from, wide.to).map((column, at) => {
          const i = wide.from + at;
          return (
            <div
              role="columnheader"
              key={i}
              aria-colindex={i + 3}
              className="min-w-0 border-l border-rule px-2 py-1"
            >
              <div
                className={`text-sm text-permanganate ${NUMERIC.includes(column.kind) ? "text-right" : ""}`}
              >
                <Pick
                  quiet
                  label={`Column ${i + 1} holds`}
                  value={column.kind}
                  options={kinds}
                  onChange={(kind) => setKind(i, kind)}
                />
              </div>
              {understood.heading_row != null && isEdited(understood.heading_row, i) ? (
                <CellField
                  text={column.heading}
                  label={`Heading of column ${i + 1}`}
                  onDone={(text) => edit(understood.heading_row!, i, text)}
                />
              ) : (
                // biome-ignore lint/a11y/noStaticElementInteractions: a heading takes a key and a double click to be typed over
                <div
                  className={`truncate font-semibold ${NUMERIC.includes(column.kind) ? "text-right" : ""}`}
                  title={`${column.heading} — double click to change it`}
                  tabIndex={understood.heading_row != null ? 0 : undefined}
                  onDoubleClick={() =>
                    understood.heading_row != null && setEditing({ row: understood.heading_row, column: i })
                  }
                  onKeyDown={(event) =>
                    (event.key === "Enter" || event.key === "F2") &&
                    understood.heading_row != null &&
                    setEditing({ row: understood.heading_row, column: i })
                  }
                >
                  {column.heading || "–"}
                  {column.kind === "level" && column.unit && !column.heading.includes(column.unit) && (
                    <span className="font-normal text-iodine"> / {column.unit}</span>
                  )}
                </div>
              )}
            </div>
          );
        })}
      </div>
      <div style={{ height: rows.getTotalSize(), minWidth: wide.total }} className="relative">
        {rows.getVirtualItems().map((item) => {
          const row = understood.rows[item.index];
          if (!row) return <Coming key={item.key} at={item.start} />;
          return (
            <div
              role="row"
              key={row.number}
              style={{ ...grid, transform: `translateY(${item.start}px)`, height: ROW }}
              className="absolute inset-x-0 grid items-stretch border-b border-rule/70"
            >
              <span role="cell" className="px-2 leading-7 text-graphite">
                {row.role && !plated ? (
                  <button
                    type="button"
                    aria-label={`Choose row ${row.number}`}
                    aria-pressed={chosen.has(row.number)}
                    title="Choose rows (with Shift all between) to give them one role"
                    className={`w-full rounded-sm text-left ${chosen.has(row.number) ? "bg-permanganate-tint font-semibold text-permanganate" : ""}`}
                    onClick={(event) => chooseRow(row.number, event.shiftKey)}
                  >
                    {row.number}
                  </button>
                ) : (
                  row.number
                )}
              </span>
              <span role="cell" className={`items-center gap-1 px-1.5 ${plated ? "hidden" : "flex"}`}>
                {row.role ? (
                  <>
                    <RoleMark role={row.role} />
                    <Pick
                      quiet
                      label={`Role of row ${row.number}`}
                      value={row.role}
                      options={rolesFor(row.role)}
                      onChange={(role) => setRole(row.number, role)}
                    />
                  </>
                ) : (
                  <span className="text-graphite">
                    {row.marks.every((mark) => mark === "text") ? "title" : "–"}
                  </span>
                )}
              </span>
              {plated && row.marks.every((mark) => mark === "text") ? (
                <span
                  role="cell"
                  className="truncate border-l border-rule/70 px-2 leading-7 text-graphite"
                  style={{ gridColumn: "2 / -1" }}
                >
                  {row.cells.filter(Boolean).join("  ")}
                </span>
              ) : (
                <>
                  {wide.skips && <span role="presentation" />}
                  {row.cells.slice(wide.from, wide.to).map((cell, at) => {
                    const column = wide.from + at;
                    return isEdited(row.number, column) ? (
                      <CellField
                        key={column}
                        text={cell}
                        label={`Column ${column + 1} of row ${row.number}`}
                        onDone={(text) => edit(row.number, column, text)}
                      />
                    ) : (
                      <Cell
                        key={column}
                        text={cell}
                        mark={row.marks[column]!}
                        kind={columns[column]!.kind}
                        place={`“${cell}” in row ${row.number}`}
                        onMeaning={(meaning) => setMeaning(row.number, column, meaning)}
                        onEdit={() => setEditing({ row: row.number, column })}
                        was={was.get(`${row.number} ${column}`)}
                        row={row}
                        at={column + (plated ? 2 : 3)}
                      />
                    );
                  })}
                </>
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** A row of a long table that is still on its way. */
function Coming({ at }: { at: number }) {
  return (
    <div
      role="row"
      style={{ transform: `translateY(${at}px)`, height: ROW }}
      className="absolute inset-x-0 border-b border-rule/70 px-2 leading-7 text-graphite"
    >
      <span role="cell">…</span>
    </div>
  );
}

interface CellProps {
  text: string;
  mark: CellMark;
  kind: ColumnKind;
  place: string;
  row: Row;
  /** Which cell of its row it is, from 1. */
  at: number;
  onMeaning: (meaning: CellChoice["meaning"]) => void;
  onEdit: () => void;
  /** What was typed, where the cell has been set right. */
  was: string | undefined;
}

function Cell({ text, mark, kind, place, row, at, onMeaning, onEdit, was }: CellProps) {
  const align = NUMERIC.includes(kind) ? "text-right" : "";
  const dim =
    kind === "ignore" || row.role === "unused"
      ? "text-graphite line-through"
      : kind === "note"
        ? "text-graphite"
        : "";
  const tint = TINTS[mark] ?? dim;
  const edited = was === undefined ? "" : "underline decoration-permanganate decoration-2 underline-offset-4";
  const box = `truncate border-l border-rule/70 px-2 leading-7 ${align} ${tint} ${edited}`;
  const about = was === undefined ? text : `${text} — typed was “${was}”`;
  if (kind !== "reading" || !ODD.includes(mark)) {
    const unit = mark === "unit" ? /^(.*?\d)(\s*[^\d.,]+)$/.exec(text) : null;
    return (
      <span role="cell" aria-colindex={at} className={box} title={about} onDoubleClick={onEdit}>
        {unit ? unit[1] : text}
        {unit && <span className="text-iodine">{unit[2]}</span>}
      </span>
    );
  }
  return (
    <span role="cell" aria-colindex={at} className={box}>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`${place}: change what it means`}
          className="w-full truncate text-right underline decoration-dotted"
        >
          {text}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            className="z-50 rounded-md border border-rule bg-chalk p-1 shadow-lg"
          >
            <DropdownMenu.Item onSelect={onEdit} className={MENU_ITEM}>
              Set it right …
            </DropdownMenu.Item>
            <DropdownMenu.Label className="px-3 py-1 text-sm text-graphite">{place} means</DropdownMenu.Label>
            {MEANINGS.map((meaning) => (
              <DropdownMenu.Item
                key={meaning.value}
                onSelect={() => onMeaning(meaning.value)}
                className={MENU_ITEM}
              >
                {meaning.text}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </span>
  );
}

/** A cell typed over: Enter or leaving it keeps what stands there, Escape does not. */
function CellField({
  text,
  label,
  onDone,
}: {
  text: string;
  label: string;
  onDone: (text: string | null) => void;
}) {
  const [draft, setDraft] = useState(text);
  const left = useRef(false);
  const done = (kept: boolean) => {
    if (left.current) return;
    left.current = true;
    onDone(kept && draft.trim() !== text ? draft.trim() : null);
  };
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: it was just asked for
      autoFocus
      aria-label={label}
      value={draft}
      maxLength={200}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={() => done(true)}
      onKeyDown={(event) => {
        if (event.key === "Enter") done(true);
        if (event.key === "Escape") done(false);
      }}
      className="min-w-0 border border-permanganate bg-chalk px-1.5"
    />
  );
}
