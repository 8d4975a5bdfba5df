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
): { x: XScale; y: ScaleLinear<number, number> } {
  const marks = curves.flatMap((curve) => [...curve.points, ...curve.samples]);
  const [x0 = 0, x1 = 1] = extent([...marks.map((p) => p.x), ...curves.flatMap((curve) => curve.line.x)]);
  const [y0 = 0, y1 = 1] = extent([
    ...marks.map((p) => p.y),
    ...curves.flatMap((curve) => [...curve.line.y, ...curve.line.upper]),
  ]);
  const pad = (x1 - x0) * 0.02 || 1;
  const positive = marks.map((p) => p.x).filter((v) => v > 0);
  const zero = marks.some((p) => p.x === 0);
  const x = !log
    ? linearX(limits.x ?? [x0 - pad, x1 + pad], across)
    : limits.x
      ? logBetween(logEnds(limits.x, Math.min(...positive)), zero && limits.x[0] <= 0, across)
      : logX(Math.min(...positive), Math.max(...positive), zero, across);
  // The axis starts at zero unless signals lie clearly below it.
  const floor = y0 < -0.03 * (y1 - y0) ? y0 : 0;
  const y = limits.y ? scaleLinear(limits.y, up) : scaleLinear([floor, y1], up).nice();
  return { x, y };
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
