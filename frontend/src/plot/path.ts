/* Paths from arrays of screen coordinates. */
import { area, line } from "d3-shape";

export function polyline(xs: readonly number[], ys: readonly number[]): string {
  return (
    line<number>(
      (_, i) => xs[i]!,
      (_, i) => ys[i]!,
    )(xs as number[]) ?? ""
  );
}

export function ribbon(xs: readonly number[], lower: readonly number[], upper: readonly number[]): string {
  const shape = area<number>(
    (_, i) => xs[i]!,
    (_, i) => lower[i]!,
    (_, i) => upper[i]!,
  );
  return lower.length ? (shape(xs as number[]) ?? "") : "";
}
