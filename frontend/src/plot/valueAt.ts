/* The value of a line under the pointer, between the points that it is drawn through. */

interface Line {
  x: readonly number[];
  y: readonly number[];
}

/** A line's value at a place, straight between its points, x rising; null beyond its ends. */
export function valueAt({ x, y }: Line, at: number): number | null {
  if (x.length === 0 || at < x[0]! || at > x.at(-1)!) return null;
  let [low, high] = [0, x.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (x[middle]! <= at) low = middle;
    else high = middle;
  }
  const span = x[high]! - x[low]!;
  return span > 0 ? y[low]! + ((y[high]! - y[low]!) * (at - x[low]!)) / span : y[low]!;
}
