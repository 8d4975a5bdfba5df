/* Where wells are on a plate, and which of them a gesture means. Pure, so that every way of selecting agrees. */
import type { Reading } from "../../api/schema";

export interface Spot {
  row: number;
  column: number;
}

export function rowLetters(row: number): string {
  return row < 26 ? String.fromCharCode(65 + row) : `A${String.fromCharCode(65 + row - 26)}`;
}

export function wellName(well: Spot): string {
  return `${rowLetters(well.row)}${well.column + 1}`;
}

/** All wells of the rectangle between two corners. */
export function between(wells: readonly Reading[], one: Spot, other: Spot): number[] {
  const [top, bottom] = [Math.min(one.row, other.row), Math.max(one.row, other.row)];
  const [left, right] = [Math.min(one.column, other.column), Math.max(one.column, other.column)];
  return wells
    .filter((w) => w.row >= top && w.row <= bottom && w.column >= left && w.column <= right)
    .map((w) => w.id);
}

interface Size {
  name?: string;
  rows: number;
  columns: number;
}

export function isEdge(well: Spot, { rows, columns }: Size): boolean {
  return well.row === 0 || well.row === rows - 1 || well.column === 0 || well.column === columns - 1;
}

export function edge(wells: readonly Reading[], size: Size): number[] {
  return wells.filter((well) => isEdge(well, size)).map((well) => well.id);
}

/** Where a reading is, to go behind its name: ", well B7 of Plate 2"; nothing in a table. */
export function placeOf(reading: Reading | undefined, plates: readonly Size[]): string {
  if (reading?.plate == null) return "";
  const of = plates.length > 1 ? ` of ${plates[reading.plate]?.name || `Plate ${reading.plate + 1}`}` : "";
  return `, well ${wellName(reading)}${of}`;
}

/** "A1 to H2", or the names of a few, for what is selected. */
export function spanOf(wells: readonly Spot[]): string {
  if (wells.length === 0) return "";
  if (wells.length === 1) return wellName(wells[0]!);
  const rows = wells.map((w) => w.row);
  const columns = wells.map((w) => w.column);
  const first = { row: Math.min(...rows), column: Math.min(...columns) };
  const last = { row: Math.max(...rows), column: Math.max(...columns) };
  const whole = (last.row - first.row + 1) * (last.column - first.column + 1) === wells.length;
  if (whole) return `${wellName(first)} to ${wellName(last)}`;
  return wells.length <= 4
    ? wells.map(wellName).join(", ")
    : `${wells.length} wells from ${wellName(first)} to ${wellName(last)}`;
}
