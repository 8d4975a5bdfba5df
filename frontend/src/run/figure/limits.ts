/* Where the axes begin and end: as the data ask for, or as a person has zoomed or typed. */
import { extent } from "d3-array";
import { type ScaleLinear, scaleLinear } from "d3-scale";
import type { Curve } from "../../api/schema";
import { linearX, logBetween, logX, type XScale } from "../../plot/scales";

export type Ends = [number, number];
export interface Limits {
  x: Ends | null;
  y: Ends | null;
}
export const WHOLE: Limits = { x: null, y: null };

export function within(value: number, ends: Ends | null): boolean {
  return ends === null || (value >= ends[0] && value <= ends[1]);
}

/** Both scales, so that all of several curves are seen. */
export function scalesOf(
  curves: readonly Curve[],
  limits: Limits,
  log: boolean,
  across: Ends,
  up: Ends,
  ruler: readonly number[] = [],
  fromZero = true,
): { x: XScale; y: ScaleLinear<number, number> } {
  const marks = curves.flatMap((curve) => [...curve.points, ...curve.samples, ...(curve.means ?? [])]);
  const [x0 = 0, x1 = 1] = extent([...marks.map((p) => p.x), ...curves.flatMap((curve) => curve.line.x)]);
  const [y0 = 0, y1 = 1] = heights(
    marks.map((p) => p.y),
    curves.flatMap((curve) => [...curve.line.y, ...curve.line.upper]),
  );
  const pad = (x1 - x0) * 0.02 || 1;
  const positive = marks.map((p) => p.x).filter((v) => v > 0);
  const zero = marks.some((p) => p.x === 0);
  const x = !log
    ? linearX(limits.x ?? [x0 - pad, x1 + pad], across)
    : limits.x
      ? logBetween(logEnds(limits.x, Math.min(...positive)), zero && limits.x[0] <= 0, across)
      : logX(Math.min(...positive), Math.max(...positive), zero, across);
  // The axis starts at zero unless signals lie clearly below it.
  const floor = !fromZero || y0 < -0.03 * (y1 - y0) ? y0 : 0;
  if (ruler.length) return { x, y: ruledScale(ruler, limits.y, up) };
  const y = limits.y ? scaleLinear(limits.y, up) : scaleLinear([floor, y1], up).nice();
  return { x, y };
}

/** From lowest to highest of all; lines that run off take no more room than the readings themselves. */
function heights(read: readonly number[], lines: readonly number[]): [number?, number?] {
  const [low, high] = extent(read);
  if (low === undefined || low === high) return extent([...read, ...lines]) as [number?, number?];
  const [from, to] = [low - (high - low) / 2, high + (high - low) / 2];
  return extent([...read, ...lines.map((value) => Math.min(Math.max(value, from), to))]) as [
    number?,
    number?,
  ];
}

const PERCENTS = [1, 5, 10, 20, 30, 50, 70, 80, 90, 95, 99];

/** Probability paper: the percentages of the ruler stand at equal distances; 0 and 100 stand at its edges. */
function ruledScale(ruler: readonly number[], ends: Ends | null, up: Ends): ScaleLinear<number, number> {
  const inside = ruler.filter((percent) => within(percent, ends));
  const marks = inside.length > 1 ? inside : ruler;
  const place = (i: number) => up[0] + ((up[1] - up[0]) * i) / (marks.length - 1);
  const scale = scaleLinear(
    marks,
    marks.map((_, i) => place(i)),
  ).clamp(true);
  const seen = PERCENTS.filter((percent) => percent >= marks[0]! && percent <= marks.at(-1)!);
  return Object.assign(scale, { ticks: () => (seen.length > 1 ? seen : [marks[0]!, marks.at(-1)!]) });
}

/** Lowest and highest value of a scale, whatever stands between. */
export function edgesOf(values: readonly number[]): Ends {
  return [values[0]!, values.at(-1)!];
}

/** A log axis asked to begin at zero begins, beyond its break, at the lowest level. */
function logEnds([low, high]: Ends, least: number): Ends {
  return [low > 0 ? low : Math.min(least / 1.25, high / 2), high];
}

/** Ends moved or stretched: `by` is the share of the span, `about` the place that stays, from 0 to 1. */
export function stretched([low, high]: Ends, by: number, about: number, log: boolean): Ends {
  const [a, b] = log ? [Math.log(low), Math.log(high)] : [low, high];
  const ends: Ends = [a + (b - a) * by * about, b - (b - a) * by * (1 - about)];
  return log ? [Math.exp(ends[0]), Math.exp(ends[1])] : ends;
}

export function shifted([low, high]: Ends, by: number, log: boolean): Ends {
  if (log) {
    const factor = (high / low) ** by;
    return [low * factor, high * factor];
  }
  return [low + (high - low) * by, high + (high - low) * by];
}
