import { expect, test } from "vitest";
import { fieldOf, type Look, moved, withSeries } from "./look";

const look = { series: { own: [] } } as unknown as Look;

test("a part of the drawing leads to where it is changed", () => {
  expect(fieldOf("x-title.0")).toEqual({ group: "words", field: "x" });
  expect(fieldOf("y-ticks.0")).toEqual({ group: "axes", field: "y" });
  expect(fieldOf("series-3-points")).toEqual({ group: "series", field: "3" });
  expect(fieldOf("legend-12.0")).toEqual({ group: "series", field: "12" });
  expect(fieldOf("legend-title.0")).toEqual({ group: "words", field: "legend_title" });
  expect(fieldOf("note.0")).toEqual({ group: "notes", field: "" });
  expect(fieldOf("clip-path")).toBeNull();
});

test("a series that is changed keeps the others in their order", () => {
  const made = withSeries(look, ["a", "b", "c"], "b", { name: "B" });
  expect(made.series.own.map(({ key, name }) => [key, name])).toEqual([
    ["a", null],
    ["b", "B"],
    ["c", null],
  ]);
  const keys = (each: Look) => each.series.own.map(({ key }) => key);
  expect(keys(moved(made, ["a", "b", "c"], "c", -1))).toEqual(["a", "c", "b"]);
  expect(moved(made, ["a", "b", "c"], "a", -1)).toBe(made);
  expect(moved(made, ["a", "b", "c"], "c", 1)).toBe(made);
});
