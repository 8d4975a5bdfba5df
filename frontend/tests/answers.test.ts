/* The table of answers: its cells, its order, and the columns that are shown. */
import { describe, expect, test } from "vitest";
import type { AnswerColumn, AnswerTable } from "../src/api/schema";
import { arranged } from "../src/run/answers/order";
import { cellOf, columnOf, headingOf, sortKey, spanOf } from "../src/run/answers/table";
import { gridOf, shownColumns } from "../src/run/answers/widths";

function column(parts: Partial<AnswerColumn>): AnswerColumn {
  return {
    id: "c",
    name: "C",
    unit: "",
    short: "",
    note: "",
    kind: "number",
    where: "always",
    level: null,
    interval: "exports",
    lead: false,
    working: "",
    texts: [],
    values: [],
    censors: [],
    lowers: [],
    uppers: [],
    lower_texts: [],
    upper_texts: [],
    ...parts,
  } as AnswerColumn;
}

const dose = column({
  id: "dose",
  name: "IC50 relative",
  unit: "µM",
  kind: "value",
  lead: true,
  level: 0.95,
  interval: "always",
  values: [3, null, 1, null],
  texts: ["3.0", "> 30", "1.0", "—"],
  censors: ["", ">", "", ""],
  lower_texts: ["2.5", "", "0.5", ""],
  upper_texts: ["3.5", "", "1.5", ""],
});
const empty = column({ id: "empty", texts: ["—", "", "—", ""] });
const extra = column({
  id: "extra",
  name: "Extra",
  where: "more",
  texts: ["a", "b", "c", "d"],
  kind: "text",
});
const table = {
  of: "Series",
  rows: ["S10", "S2", "S1", "Bare"].map((name, i) => ({
    key: name,
    name,
    group: `g${i}`,
    role: "dose",
    reading: null,
    curve: name,
    series: name,
    remarks: i === 3 ? [{ state: "look", short: "no curve", text: "No curve." }] : [],
  })),
  columns: [dose, empty, extra],
} as unknown as AnswerTable;
const names = (places: readonly number[]) => places.map((at) => table.rows![at]!.name);

describe("cells", () => {
  test("are found by row and column", () => {
    expect(cellOf(table, table.rows![0]!, "dose")).toEqual({
      text: "3.0",
      value: 3,
      lower: "2.5",
      upper: "3.5",
    });
    expect(cellOf(table, table.rows![0]!, "nothing").text).toBe("");
    expect(columnOf(table, "extra")).toBe(extra);
  });
  test("have both ends with a dash, or with a word beside a minus", () => {
    expect(spanOf({ text: "", value: 1, lower: "0.5", upper: "1.5" })).toBe("0.5 – 1.5");
    expect(spanOf({ text: "", value: 1, lower: "−0.5", upper: "1.5" })).toBe("−0.5 to 1.5");
    expect(spanOf({ text: "", value: 1, lower: "", upper: "" })).toBe("");
  });
});

describe("order", () => {
  test("is as laid out until another is asked for", () => {
    expect(names(arranged(table, "", { by: null, down: false }))).toEqual(["S10", "S2", "S1", "Bare"]);
  });
  test("by name counts as people do", () => {
    expect(names(arranged(table, "", { by: "", down: false }))).toEqual(["Bare", "S1", "S2", "S10"]);
  });
  test("by number puts a bound beyond every number, and what has none last, either way", () => {
    expect(names(arranged(table, "", { by: "dose", down: false }))).toEqual(["S1", "S10", "S2", "Bare"]);
    expect(names(arranged(table, "", { by: "dose", down: true }))).toEqual(["S2", "S10", "S1", "Bare"]);
    expect(sortKey(column({ values: [null], texts: ["< 1"], censors: ["<"] }), 0)).toBe(-Number.MAX_VALUE);
  });
  test("keeps the rows that hold every word, of names and of remarks", () => {
    expect(names(arranged(table, "no CURVE", { by: null, down: false }))).toEqual(["Bare"]);
    expect(names(arranged(table, "s1", { by: null, down: false }))).toEqual(["S10", "S1"]);
    expect(names(arranged(table, "s1 curve", { by: null, down: false }))).toEqual([]);
  });
});

describe("columns", () => {
  test("that are empty all the way down are not shown, and more only when asked for", () => {
    expect(shownColumns(table, false).map((each) => each.column.id)).toEqual(["dose"]);
    expect(shownColumns(table, true).map((each) => each.column.id)).toEqual(["dose", "extra"]);
  });
  test("that lead are shown even so", () => {
    const none = { ...table, columns: [column({ id: "lead", lead: true, texts: ["—", "—", "—", "—"] })] };
    expect(shownColumns(none as AnswerTable, false)).toHaveLength(1);
  });
  test("have an interval beside them where there is one to show", () => {
    expect(shownColumns(table, false)[0]!.interval).toBe(true);
    const more = column({ ...dose, interval: "more" });
    expect(shownColumns({ ...table, columns: [more] } as AnswerTable, false)[0]!.interval).toBe(false);
    expect(shownColumns({ ...table, columns: [more] } as AnswerTable, true)[0]!.interval).toBe(true);
  });
  test("are headed shortly, with a unit that is not the run's, and with the level of the interval", () => {
    expect(headingOf(column({ name: "CV", unit: "%" }))).toBe("CV %");
    expect(headingOf(column({ name: "Signal", unit: "A880", short: "Signal" }))).toBe("Signal");
    expect(headingOf(column({ short: "IC50", level: 0.9 }), true)).toBe("IC50 (90 % CI)");
  });
  test("are as wide as what stands in them", () => {
    const widths = (texts: string[]) =>
      gridOf(table, [{ column: column({ name: "C", texts }), interval: false }]).gridTemplateColumns.split(
        " ",
      )[1]!;
    expect(Number.parseInt(widths(["1234567890"]), 10)).toBeGreaterThanOrEqual(66);
    expect(widths(["1", "1"])).toBe(widths(["2", "2"]));
  });
});
