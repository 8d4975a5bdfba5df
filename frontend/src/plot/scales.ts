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

const SUPERSCRIPTS = "⁰¹²³⁴⁵⁶⁷⁸⁹";

/** One notation for all ticks of a logarithmic axis: plain numbers where these stay short, else powers of ten. */
export function notation([low, high]: [number, number]): (value: number) => string {
  const plain = low >= 1e-4 && high < 1e6;
  return (value) => {
    if (value === 0) return "0";
    if (plain) return String(+value.toPrecision(3));
    const [digits, power] = value.toExponential(2).split("e") as [string, string];
    return `${Number(digits) === 1 ? "" : `${Number(digits)}·`}10${superscript(Number(power))}`;
  };
}

const ZERO_ROOM = 34; // px for the place of zero on a log axis

/** One notation for all ticks of a linear axis, with as many decimals as the finest of them needs. */
export function alike(ticks: readonly number[]): (value: number) => string {
  const most = Math.max(...ticks.map(Math.abs), 0);
  const power = most > 0 && (most >= 1e6 || most < 1e-4) ? Math.floor(Math.log10(most) + 1e-9) : 0;
  const places = Math.min(Math.max(0, ...ticks.map((tick) => decimals(tick / 10 ** power))), 8);
  const raised = power === 0 ? "" : `·10${superscript(power)}`;
  return (value) => {
    const text = (value / 10 ** power).toFixed(places).replace(/^-(0(\.0+)?)$/, "$1");
    return value === 0 ? "0" : `${text.replace("-", "−")}${raised}`;
  };
}

function decimals(value: number): number {
  return String(Number(value.toPrecision(10))).split(".")[1]?.length ?? 0;
}

function superscript(power: number): string {
  return [...String(power)].map((c) => (c === "-" ? "⁻" : SUPERSCRIPTS[Number(c)])).join("");
}

export function linearX(domain: [number, number], range: [number, number]): XScale {
  const scale = scaleLinear(domain, range);
  return Object.assign((value: number) => scale(value), {
    ticks: (count: number) => scale.ticks(count),
    text: (value: number) => alike(scale.ticks(8))(value),
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
    text: notation([scale.domain()[0]!, scale.domain()[1]!]),
    invert: (place: number) => scale.invert(Math.max(place, start)),
    range,
    gap: zero ? ([start - 14, start - 6] as [number, number]) : null,
  });
}
