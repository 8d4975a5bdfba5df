/* The sequential shade behind the wells: ink on paper, so that it leaves the colors of the roles alone. */

export interface Shade {
  low: number;
  high: number;
  of: (value: number | null | undefined) => string | undefined;
}

const DARKEST = 42; // percent of ink at the top; text on it keeps a contrast above 4.5

function mix(percent: number): string {
  return `color-mix(in oklab, var(--color-ink) ${percent.toFixed(1)}%, var(--color-chalk))`;
}

export function shadeOf(values: readonly (number | null | undefined)[]): Shade | null {
  const there = values.filter((v): v is number => v != null && Number.isFinite(v));
  if (there.length < 2) return null;
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const value of there) {
    low = Math.min(low, value);
    high = Math.max(high, value);
  }
  if (high === low) return null;
  return {
    low,
    high,
    of: (value) => (value == null ? undefined : mix((DARKEST * (value - low)) / (high - low))),
  };
}

/** Two shades for what lies above and below: as far both ways, so that the same depth is the same distance. */
export function bothWays(values: readonly (number | null | undefined)[]): Shade | null {
  const sizes = values.flatMap((v) => (v != null && Number.isFinite(v) ? [Math.abs(v)] : []));
  // One wild well must not leave all others pale.
  const most = sizes.sort((a, b) => a - b)[Math.floor(0.97 * (sizes.length - 1))] ?? 0;
  if (most === 0) return null;
  const of = (value: number | null | undefined) => {
    if (value == null) return undefined;
    const depth = (70 * Math.min(Math.abs(value) / most, 1)).toFixed(1);
    return `color-mix(in oklab, var(--color-${value > 0 ? "iodine" : "cupric"}) ${depth}%, var(--color-chalk))`;
  };
  return { low: -most, high: most, of };
}
