/* The axis of concentrations: linear, or logarithmic with zero on a broken stretch of its own. */
import { scaleLinear, scaleLog } from "d3-scale";

export interface XScale {
  (value: number): number;
  ticks: (count: number) => number[];
  text: (value: number) => string;
  /** What stands at a place in pixels. */
  invert: (place: number) => number;
  range: [number, number];
  /** Where the axis is broken, between zero and the rest; null when it is not. */
  gap: [number, number] | null;
}

const ZERO_ROOM = 34; // px for the place of zero on a log axis

export function linearX(domain: [number, number], range: [number, number]): XScale {
  const scale = scaleLinear(domain, range);
  return Object.assign((value: number) => scale(value), {
    ticks: (count: number) => scale.ticks(count),
    text: (value: number) => scale.tickFormat(8)(value).replace("-", "−"),
    invert: (place: number) => scale.invert(place),
    range,
    gap: null,
  });
}

/** `least` is the lowest concentration above zero, `most` the highest; `zero` whether one stands at zero. */
export function logX(least: number, most: number, zero: boolean, range: [number, number]): XScale {
  return logBetween([least / 1.25, most * 1.15], zero, range);
}

/** Between ends given exactly. */
export function logBetween(ends: [number, number], zero: boolean, range: [number, number]): XScale {
  const start = range[0] + (zero ? ZERO_ROOM : 0);
  const scale = scaleLog(ends, [start, range[1]]);
  const place = (value: number) => (value <= 0 ? range[0] + 8 : Math.max(scale(value), start));
  return Object.assign(place, {
    ticks: (count: number) => {
      const all = scale.ticks(count);
      const decades = all.filter((t) => Math.abs(Math.log10(t) - Math.round(Math.log10(t))) < 1e-9);
      const halves = all.filter((t) => /^[125]/.test(t.toExponential()));
      const shown = decades.length >= 3 ? decades : halves.length >= 2 ? halves : all;
      return zero ? [0, ...shown] : shown;
    },
    text: (value: number) => (value === 0 ? "0" : String(+value.toPrecision(3))),
    invert: (place: number) => scale.invert(Math.max(place, start)),
    range,
    gap: zero ? ([start - 14, start - 6] as [number, number]) : null,
  });
}
