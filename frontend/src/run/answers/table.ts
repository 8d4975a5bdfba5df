/* Reading the table of answers: a cell by its row and its column's id, texts and numbers side by side. */
import type { AnswerColumn, AnswerRow, AnswerTable } from "../../api/schema";

export interface Cell {
  text: string;
  value: number | null;
  /** The ends of its interval as shown; empty without one. */
  lower: string;
  upper: string;
}

export function columnOf(table: AnswerTable, id: string): AnswerColumn | undefined {
  return table.columns?.find((column) => column.id === id);
}

export function cellAt(column: AnswerColumn, row: number): Cell {
  return {
    text: column.texts[row] ?? "",
    value: column.values?.[row] ?? null,
    lower: column.lower_texts?.[row] ?? "",
    upper: column.upper_texts?.[row] ?? "",
  };
}

export const NONE: Cell = { text: "", value: null, lower: "", upper: "" };

export function cellOf(table: AnswerTable, row: AnswerRow, id: string): Cell {
  const column = columnOf(table, id);
  const at = table.rows?.indexOf(row) ?? -1;
  return column && at >= 0 ? cellAt(column, at) : NONE;
}

/** Both ends as shown; a dash between numbers below zero would be one sign too many. */
export function spanOf({ lower, upper }: Cell): string {
  return lower ? `${lower} ${`${lower}${upper}`.includes("−") ? "to" : "–"} ${upper}` : "";
}

/** What the rows are sorted by: a bound beyond every number it bounds; null sorts last. */
export function sortKey(column: AnswerColumn, row: number): number | string | null {
  if (column.kind === "text") return column.texts[row] ?? "";
  const value = column.values?.[row];
  if (value != null) return value;
  const censor = column.censors?.[row];
  return censor === ">" ? Number.MAX_VALUE : censor ? -Number.MAX_VALUE : null;
}

/** What the page shows over a column, and over its interval where that stands beside it: "In reading (95 % CI)". */
export function headingOf(column: AnswerColumn, interval = false): string {
  const name = column.short || `${column.name} ${column.unit ?? ""}`.trim();
  return interval ? `${name} (${100 * (column.level ?? 0.95)} % CI)` : name;
}
