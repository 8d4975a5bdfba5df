/* The look of a figure as the panel changes it: every choice filled in, and changed by its group. */
import type { DrawnFigure, FigureLook } from "../api/schema";

/** The same with nothing left open: the server fills in what was left alone. */
export type Filled<T> = T extends readonly (infer Each)[]
  ? Filled<Each>[]
  : T extends object
    ? { [Key in keyof T]-?: Filled<Exclude<T[Key], undefined>> }
    : T;
export type Look = Filled<FigureLook>;
export type Group = "paper" | "words" | "axes" | "series" | "notes";
export type Drawn = Filled<DrawnFigure>;

/** The look with some choices of a group changed. */
export function withGroup<G extends Group>(look: Look, group: G, change: Partial<Look[G]>): Look {
  return { ...look, [group]: { ...look[group], ...change } };
}

export type SeriesLook = Look["series"]["own"][number];

/** The look with one series changed; all are listed in the order they have now, so that this stays. */
export function withSeries(
  look: Look,
  keys: readonly string[],
  key: string,
  change: Partial<SeriesLook>,
): Look {
  const plain = (each: string): SeriesLook => ({
    key: each, shown: true, name: null, color: null, marker: null, dash: null,
  }); // biome-ignore format: a row
  const known = new Map(look.series.own.map((each) => [each.key, each]));
  const order = [...look.series.own.map((each) => each.key), ...keys.filter((each) => !known.has(each))];
  const own = order.map((each) => {
    const now = known.get(each) ?? plain(each);
    return each === key ? { ...now, ...change } : now;
  });
  return withGroup(look, "series", { own });
}

/** The look with a series one place earlier or later. */
export function moved(look: Look, keys: readonly string[], key: string, by: -1 | 1): Look {
  const listed = withSeries(look, keys, key, {});
  const own = [...listed.series.own];
  const at = own.findIndex((each) => each.key === key);
  const to = at + by;
  if (to < 0 || to >= own.length) return look;
  [own[at], own[to]] = [own[to]!, own[at]!];
  return withGroup(listed, "series", { own });
}

/** Where in the panel a part of the drawing is changed: its group, and the field that is put forward. */
export function fieldOf(part: string): { group: Group; field: string } | null {
  const [name = "", rest = ""] = part.split(".")[0]!.split(/-(.*)/s);
  if (part.startsWith("title")) return { group: "words", field: "title" };
  if (part.startsWith("x-title")) return { group: "words", field: "x" };
  if (part.startsWith("y-title")) return { group: "words", field: "y" };
  if (part.startsWith("x-")) return { group: "axes", field: "x" };
  if (part.startsWith("y-")) return { group: "axes", field: "y" };
  if (part.startsWith("legend-title")) return { group: "words", field: "legend_title" };
  if (name === "legend" || name === "series") return { group: "series", field: /^\d+/.exec(rest)?.[0] ?? "" };
  if (name === "free" || name === "arrow") return { group: "notes", field: /^\d+/.exec(rest)?.[0] ?? "" };
  if (["note", "mark", "trust", "drop"].includes(name)) return { group: "notes", field: "" };
  if (name === "axes" || name === "break") return { group: "axes", field: "x" };
  if (name === "paper") return { group: "paper", field: "" };
  return null;
}
