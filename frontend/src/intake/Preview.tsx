/* The pasted table as it was understood: what each column, row and cell was taken for, each changeable in place. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { DropdownMenu } from "radix-ui";
import { useEffect, useRef } from "react";
import { ROLES } from "../api/declared";
import type { CellChoice, CellMark, Choices, ColumnKind, Role, Row, Understanding } from "../api/schema";
import { Pick } from "../ui/Choice";
import { RoleMark } from "../ui/RoleMark";
import type { Choose } from "./choices";

const KINDS: { value: ColumnKind; text: string }[] = [
  { value: "name", text: "name" },
  { value: "role", text: "role" },
  { value: "level", text: "concentration" },
  { value: "reading", text: "reading" },
  { value: "dilution", text: "dilution" },
  { value: "series", text: "series" },
  { value: "well", text: "well" },
  { value: "plate", text: "plate" },
  { value: "channel", text: "wavelength" },
  { value: "time", text: "time point" },
  { value: "note", text: "note" },
  { value: "ignore", text: "leave out" },
];
const MEANINGS: { value: CellChoice["meaning"]; text: string }[] = [
  { value: "above", text: "Above the instrument's range" },
  { value: "below", text: "Below the instrument's range" },
  { value: "missing", text: "Missing" },
  { value: "text", text: "Text, not a reading" },
];
const NUMERIC: ColumnKind[] = ["level", "reading", "dilution"];
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
  const grid = {
    gridTemplateColumns: plated
      ? `44px repeat(${columns.length}, minmax(54px, 1fr))`
      : `44px 112px repeat(${columns.length}, minmax(96px, 1fr))`,
  };
  const setKind = (column: number, kind: ColumnKind) =>
    choose({ columns: [...choices.columns!.filter((c) => c.column !== column), { column, kind }] });
  const setRole = (row: number, role: Role) =>
    choose({ rows: [...choices.rows!.filter((c) => c.row !== row), { row, role }] });
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
      className="min-h-0 flex-1 overflow-auto rounded-lg border border-rule bg-chalk text-md"
    >
      <div
        role="row"
        style={grid}
        className={`sticky top-0 z-10 border-b border-rule bg-paper ${plated ? "hidden" : "grid"}`}
      >
        <span role="columnheader" className="px-2 py-1.5 text-sm text-graphite">
          row
        </span>
        <span role="columnheader" className="px-2 py-1.5 text-sm text-graphite">
          role
        </span>
        {columns.map((column, i) => (
          <div role="columnheader" key={i} className="min-w-0 border-l border-rule px-2 py-1">
            <div className={`text-sm text-permanganate ${NUMERIC.includes(column.kind) ? "text-right" : ""}`}>
              <Pick
                quiet
                label={`Column ${i + 1} holds`}
                value={column.kind}
                options={KINDS}
                onChange={(kind) => setKind(i, kind)}
              />
            </div>
            <div
              className={`truncate font-semibold ${NUMERIC.includes(column.kind) ? "text-right" : ""}`}
              title={column.heading}
            >
              {column.heading || "–"}
              {column.kind === "level" && column.unit && !column.heading.includes(column.unit) && (
                <span className="font-normal text-iodine"> / {column.unit}</span>
              )}
            </div>
          </div>
        ))}
      </div>
      <div style={{ height: rows.getTotalSize() }} className="relative">
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
                {row.number}
              </span>
              <span role="cell" className={`items-center gap-1 px-1.5 ${plated ? "hidden" : "flex"}`}>
                {row.role ? (
                  <>
                    <RoleMark role={row.role} />
                    <Pick
                      quiet
                      label={`Role of row ${row.number}`}
                      value={row.role}
                      options={(Object.keys(ROLES) as Role[]).map((role) => ({
                        value: role,
                        text: ROLES[role].title,
                      }))}
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
                row.cells.map((cell, column) => (
                  <Cell
                    key={column}
                    text={cell}
                    mark={row.marks[column]!}
                    kind={columns[column]!.kind}
                    place={`“${cell}” in row ${row.number}`}
                    onMeaning={(meaning) => setMeaning(row.number, column, meaning)}
                    row={row}
                  />
                ))
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
  onMeaning: (meaning: CellChoice["meaning"]) => void;
}

function Cell({ text, mark, kind, place, row, onMeaning }: CellProps) {
  const align = NUMERIC.includes(kind) ? "text-right" : "";
  const dim =
    kind === "ignore" || row.role === "unused"
      ? "text-graphite line-through"
      : kind === "note"
        ? "text-graphite"
        : "";
  const tint = TINTS[mark] ?? dim;
  const box = `truncate border-l border-rule/70 px-2 leading-7 ${align} ${tint}`;
  if (kind !== "reading" || !ODD.includes(mark)) {
    const unit = mark === "unit" ? /^(.*?\d)(\s*[^\d.,]+)$/.exec(text) : null;
    return (
      <span role="cell" className={box} title={text}>
        {unit ? unit[1] : text}
        {unit && <span className="text-iodine">{unit[2]}</span>}
      </span>
    );
  }
  return (
    <span role="cell" className={box}>
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
            <DropdownMenu.Label className="px-3 py-1 text-sm text-graphite">{place} means</DropdownMenu.Label>
            {MEANINGS.map((meaning) => (
              <DropdownMenu.Item
                key={meaning.value}
                onSelect={() => onMeaning(meaning.value)}
                className="rounded-md px-3 py-1 outline-none data-[highlighted]:bg-permanganate-tint"
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
