/* How courses are told apart: by color and by the shape of their points, many points as one path. */
import { SERIES } from "../../figure/choices";

const SHAPES = [
  (x: number, y: number, r: number) =>
    `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`,
  (x: number, y: number, r: number) => `M${x - r} ${y - r}h${2 * r}v${2 * r}h${-2 * r}Z`,
  (x: number, y: number, r: number) => `M${x} ${y - 1.2 * r}l${1.2 * r} ${2.1 * r}h${-2.4 * r}Z`,
  (x: number, y: number, r: number) =>
    `M${x} ${y - 1.3 * r}l${1.3 * r} ${1.3 * r}l${-1.3 * r} ${1.3 * r}l${-1.3 * r} ${-1.3 * r}Z`,
  (x: number, y: number, r: number) => `M${x} ${y + 1.2 * r}l${1.2 * r} ${-2.1 * r}h${-2.4 * r}Z`,
] as const;

export function colorOf(index: number): string {
  return SERIES[index % SERIES.length]!;
}

export function marksOf(
  index: number,
  points: readonly { x: number; y: number }[],
  x: (value: number) => number,
  y: (value: number) => number,
  r: number,
): string {
  const shape = SHAPES[index % SHAPES.length]!;
  const round = (value: number) => Math.round(value * 10) / 10;
  return points.map((point) => shape(round(x(point.x)), round(y(point.y)), r)).join("");
}
