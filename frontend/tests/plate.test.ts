/* Wells: their places, what a gesture means, and what fits in them. */
import { describe, expect, test } from "vitest";
import type { Reading } from "../src/api/schema";
import { fitting } from "../src/run/plate/fitting";
import { between, edge, placeOf, rowLetters, spanOf, wellName } from "../src/run/plate/geometry";
import { bothWays, shadeOf } from "../src/run/plate/shade";
import { MOVES } from "../src/ui/moves";

const wells = Array.from({ length: 96 }, (_, i) => ({
  id: i + 1,
  row: Math.floor(i / 12),
  column: i % 12,
  plate: 0,
})) as unknown as Reading[];

test("rows are letters, AA after Z", () => {
  expect([0, 7, 25, 26, 31].map(rowLetters)).toEqual(["A", "H", "Z", "AA", "AF"]);
  expect(wellName({ row: 1, column: 6 })).toBe("B7");
});

test("a rectangle is the same from whichever corner it is dragged", () => {
  const ids = [1, 2, 13, 14];
  expect(between(wells, { row: 0, column: 0 }, { row: 1, column: 1 })).toEqual(ids);
  expect(between(wells, { row: 1, column: 1 }, { row: 0, column: 0 })).toEqual(ids);
  expect(between(wells, { row: 0, column: 1 }, { row: 1, column: 0 })).toEqual(ids);
});

test("the edge of a 96-well plate has 36 wells", () => {
  const found = edge(wells, { rows: 8, columns: 12 });
  expect(found).toHaveLength(36);
  expect([found.includes(1), found.includes(14), found.includes(96)]).toEqual([true, false, true]);
});

describe("what is selected is said", () => {
  const spots = (...ids: number[]) => ids.map((id) => wells[id - 1]!);
  test("as a well, a rectangle, a few names, or a count", () => {
    expect(spanOf([])).toBe("");
    expect(spanOf(spots(1))).toBe("A1");
    expect(spanOf(spots(1, 2, 13, 14))).toBe("A1 to B2");
    expect(spanOf(spots(1, 3, 5, 7))).toBe("A1, A3, A5, A7");
    expect(spanOf(spots(1, 3, 5, 7, 9))).toBe("5 wells from A1 to A9");
  });
  test("with its plate where there are several", () => {
    expect(placeOf(wells[6], [{ rows: 8, columns: 12 }])).toBe(", well A7");
    const two = [
      { name: "Left", rows: 8, columns: 12 },
      { rows: 8, columns: 12 },
    ];
    expect(placeOf(wells[6], two)).toBe(", well A7 of Left");
    expect(placeOf({ ...wells[6]!, plate: 1 }, two)).toBe(", well A7 of Plate 2");
    expect(placeOf(undefined, two)).toBe("");
  });
});

describe("a number in a well is rounded, never cut", () => {
  test("where it does not fit", () => {
    expect(fitting("0.1234", 60)).toBe("0.1234");
    expect(fitting("0.123456", 30)).toBe(".123");
    expect(fitting("−0.123456", 30)).toBe("−.12");
    expect(fitting("123456", 26)).toBe("1e5");
    expect(fitting("0.123456", 12)).toBe("");
  });
  test("and a word is cut with a sign of it", () => {
    expect(fitting("OVERFLOW", 30)).toBe("OVE…");
  });
});

describe("the shade", () => {
  test("goes from the lowest to the highest; alike values have none", () => {
    const shade = shadeOf([1, null, 3])!;
    expect([shade.low, shade.high, shade.of(null)]).toEqual([1, 3, undefined]);
    expect(shade.of(1)).toContain(" 0.0%");
    expect(shade.of(2)).toContain(" 21.0%");
    expect(shade.of(3)).toContain(" 42.0%");
    expect([shadeOf([2, 2]), shadeOf([2, null]), shadeOf([])]).toEqual([null, null, null]);
  });
  test("of deviations is as deep above as below, and one wild well does not pale the others", () => {
    const shade = bothWays([...Array.from({ length: 98 }, () => 1), 100, -100])!;
    expect([shade.low, shade.high]).toEqual([-1, 1]);
    expect(shade.of(1)).toContain("iodine) 70.0%");
    expect(shade.of(-0.5)).toContain("cupric) 35.0%");
    expect(shade.of(1000)).toBe(shade.of(1));
    expect(bothWays([0, 0])).toBeNull();
  });
});

test("arrows move by a row or a column", () => {
  expect(MOVES).toEqual({ ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] });
});
