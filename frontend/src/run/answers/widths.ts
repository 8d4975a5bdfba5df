/* The columns that are shown, each as wide as what stands in it, so that no number is cut. */
import type { AnswerColumn, AnswerTable } from "../../api/schema";
import { cellAt, headingOf, spanOf } from "./table";

export interface Shown {
  column: AnswerColumn;
  /** Whether its interval stands beside it. */
  interval: boolean;
}

const DIGIT = 6.6; // px of a digit, with what bold adds
const LETTER = 5.5; // px of a letter of a heading
const NAME = { least: 82, most: 260, letter: 6.6 };
const INTERVAL = 78;
const REMARKS = { least: 96, most: 168, letter: 5.7 }; // longer ones are cut, and whole where they are pointed at
const BETWEEN = 5;

/** Those of the page, and with `more` all the others; what is empty all the way down is left out. */
export function shownColumns(table: AnswerTable, more: boolean): readonly Shown[] {
  const wanted = (where: AnswerColumn["where"]) => where === "always" || (more && where === "more");
  return (table.columns ?? [])
    .filter(
      (column) => wanted(column.where) && (column.lead || column.texts.some((text) => text && text !== "—")),
    )
    .map((column) => ({
      column,
      interval: wanted(column.interval) && (column.lower_texts ?? []).some(Boolean),
    }));
}

export function gridOf(table: AnswerTable, columns: readonly Shown[]) {
  const longest = (texts: readonly string[]) => texts.reduce((most, text) => Math.max(most, text.length), 0);
  const rows = table.rows ?? [];
  const name = Math.min(
    Math.max(NAME.letter * longest(rows.map((row) => row.name)) + 24, NAME.least),
    NAME.most,
  );
  const widths = columns.flatMap(({ column, interval }) => {
    const heading = LETTER * (headingOf(column, interval).length + 1);
    const own = DIGIT * longest(column.texts) + 2;
    if (!interval) return [Math.max(own, heading)];
    const span = DIGIT * longest(rows.map((_, at) => spanOf(cellAt(column, at)))) + 2;
    // The heading stands over both.
    return [own, Math.max(INTERVAL, span, heading - own - BETWEEN)];
  });
  const px = widths.map(Math.ceil);
  const said = rows.map((row) => (row.remarks ?? []).map((each) => each.short).join(", "));
  const remarks = Math.ceil(
    Math.min(Math.max(REMARKS.letter * longest(said) + 12, REMARKS.least), REMARKS.most),
  );
  return {
    gridTemplateColumns: [
      `minmax(${Math.ceil(name)}px,1fr)`,
      ...px.map((width) => `${width}px`),
      `minmax(${remarks}px,1.5fr)`,
    ].join(" "),
    minWidth: px.reduce((sum, width) => sum + width + BETWEEN, Math.ceil(name) + remarks + BETWEEN),
  };
}

/** As many of the columns as the room has; those that only lead up to an answer give way first, from the left. */
export function fitting(table: AnswerTable, columns: readonly Shown[], room: number): readonly Shown[] {
  let kept = columns;
  while (room > 0 && gridOf(table, kept).minWidth > room) {
    const spare = kept.find(({ column, interval }) => !column.lead && !interval);
    if (!spare) break;
    kept = kept.filter((each) => each !== spare);
  }
  return kept;
}
