/* A typed table as data, numbers as typed, and what is declared once for all pages. */
import { describe, expect, test } from "vitest";
import { EXPORTS, QUESTIONS, ROLES, rolesOf, roleTitle } from "../src/api/declared";
import { asText, blank, corners, filledDown, filledOn, fromText, inside, written } from "../src/intake/grid";
import { typed } from "../src/ui/Field";

const all = (rows: number, columns = 0) => ({
  from: { row: 0, column: 0 },
  to: { row: rows, column: columns },
});
const down = (...cells: string[]) =>
  filledOn(
    cells.map((cell) => [cell]),
    all(cells.length - 1),
  ).map((line) => line[0]);

describe("a typed table", () => {
  test("grows to hold what is written into it", () => {
    expect(written(blank(1, 1), { row: 1, column: 1 }, [["x"]])).toEqual([
      ["", ""],
      ["", "x"],
    ]);
    expect(written([["a"]], { row: 0, column: 0 }, [["b"]])).toEqual([["b"]]);
  });
  test("has the same range from either corner", () => {
    const range = { from: { row: 2, column: 1 }, to: { row: 0, column: 3 } };
    expect(corners(range)).toEqual({ top: 0, bottom: 2, left: 1, right: 3 });
    expect(
      inside(
        [
          ["a", "b"],
          ["c", "d"],
        ],
        { from: { row: 1, column: 1 }, to: { row: 0, column: 1 } },
      ),
    ).toEqual([["b"], ["d"]]);
  });
  test("is filled down by its first row", () => {
    expect(
      filledDown(
        [
          ["a", "1"],
          ["", ""],
        ],
        all(1, 1),
      ),
    ).toEqual([
      ["a", "1"],
      ["a", "1"],
    ]);
  });
  test("is gone on with by the step of its first cells, or by counting", () => {
    expect(down("Std 1", "", "")).toEqual(["Std 1", "Std 2", "Std 3"]);
    expect(down("0.5", "1.0", "", "")).toEqual(["0.5", "1.0", "1.5", "2.0"]);
    expect(down("0,5", "1,0", "")).toEqual(["0,5", "1,0", "1,5"]);
    expect(down("10 µM", "8 µM", "")).toEqual(["10 µM", "8 µM", "6 µM"]);
    expect(down("Blank", "", "x")).toEqual(["Blank", "Blank", "x"]);
  });
  test("is text without its empty end, and comes back from text", () => {
    expect(
      asText([
        ["a", ""],
        ["b\t", '"c"'],
        ["", ""],
      ]),
    ).toBe("a\nb \t c ");
    expect(fromText("a\tb\r\nc\td\n")).toEqual([
      ["a", "b"],
      ["c", "d"],
    ]);
    expect(fromText("1,5;2")).toEqual([["1,5", "2"]]);
  });
});

test("numbers are read with either decimal sign and either minus", () => {
  expect([typed("1,5"), typed(" 2.5 "), typed("−3")]).toEqual([1.5, 2.5, -3]);
  expect([typed(""), typed("x")]).toEqual([Number.NaN, Number.NaN]);
});

describe("what is declared", () => {
  test("names the roles of each question", () => {
    expect(rolesOf("mortality").map(({ title }) => title)).toEqual(["Dose", "Control", "Not used"]);
    expect(roleTitle("vehicle", "mortality")).toBe("Control");
    expect(roleTitle("vehicle", "dose")).toBe("Vehicle");
    expect(roleTitle("qc")).toBe("QC");
    expect(rolesOf("nothing")).toEqual([]);
  });
  test("has a title for every role, no key twice in a question, and what can be copied", () => {
    for (const { roles } of QUESTIONS) {
      const keys = roles.map(({ role }) => ROLES[role].key).filter(Boolean);
      expect(new Set(keys).size).toBe(keys.length);
    }
    expect(EXPORTS.filter((each) => each.pasted).map((each) => each.form)).toEqual(["tsv"]);
  });
});
