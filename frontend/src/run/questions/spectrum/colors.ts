/* Scans in the order of their levels: a sequence of colors from dark to bright, so that the order is seen. */

// Dark to bright in steps that stay apart for those who see fewer colors, and on paper in gray.
const STOPS = ["#3b1c5a", "#5a3d9a", "#2f6db3", "#1f978f", "#6aab3f", "#d7a021"] as const;

function channels(color: string): [number, number, number] {
  const value = Number.parseInt(color.slice(1), 16);
  return [value >> 16, (value >> 8) & 255, value & 255];
}

/** The color at a place from 0 to 1; a scan without one is gray. */
export function sequence(place: number): string {
  if (place < 0) return "#85807a"; // legible on either ground
  const at = Math.min(Math.max(place, 0), 1) * (STOPS.length - 1);
  const i = Math.min(Math.floor(at), STOPS.length - 2);
  const [from, to] = [channels(STOPS[i]!), channels(STOPS[i + 1]!)];
  return `rgb(${from.map((each, k) => Math.round(each + (to[k]! - each) * (at - i))).join(",")})`;
}

export const RAMP = `linear-gradient(to bottom, ${STOPS.join(", ")})`;
