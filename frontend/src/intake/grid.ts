/* A typed table as data: cells, ranges, filling down and on, undo. Pure, so that the grid itself only draws. */

export type Cells = readonly (readonly string[])[];
export interface Place {
  row: number;
  column: number;
}
export interface Range {
  from: Place;
  to: Place;
}

export function blank(rows: number, columns: number): Cells {
  return Array.from({ length: rows }, () => Array.from({ length: columns }, () => ""));
}

export function corners({ from, to }: Range): { top: number; bottom: number; left: number; right: number } {
  return {
    top: Math.min(from.row, to.row),
    bottom: Math.max(from.row, to.row),
    left: Math.min(from.column, to.column),
    right: Math.max(from.column, to.column),
  };
}

/** Cells with a block written at a place; the table grows to hold it. */
export function written(cells: Cells, at: Place, block: Cells): Cells {
  const rows = Math.max(cells.length, at.row + block.length);
  const width = Math.max(cells[0]?.length ?? 0, ...block.map((line) => at.column + line.length));
  return Array.from({ length: rows }, (_, r) =>
    Array.from({ length: width }, (_, c) => {
      const own = block[r - at.row]?.[c - at.column];
      return own !== undefined && r >= at.row && c >= at.column ? own : (cells[r]?.[c] ?? "");
    }),
  );
}

export function inside(cells: Cells, range: Range): Cells {
  const { top, bottom, left, right } = corners(range);
  return cells.slice(top, bottom + 1).map((line) => line.slice(left, right + 1));
}

/** The first row of a range copied down over the rest of it. */
export function filledDown(cells: Cells, range: Range): Cells {
  const block = inside(cells, range);
  const { top, left } = corners(range);
  return written(
    cells,
    { row: top, column: left },
    block.map(() => block[0]!),
  );
}

const ENDS_IN_NUMBER = /^(.*?)(-?\d+(?:[.,]\d+)?)(\D*)$/;

/** Each column of a range gone on with: by the step of its first two cells, or counting on from the first. */
export function filledOn(cells: Cells, range: Range): Cells {
  const block = inside(cells, range);
  const { top, left } = corners(range);
  const columns = block[0]!.map((_, c) =>
    continued(
      block.map((line) => line[c]!),
      block.length,
    ),
  );
  return written(
    cells,
    { row: top, column: left },
    block.map((_, r) => columns.map((column) => column[r]!)),
  );
}

function continued(given: readonly string[], count: number): string[] {
  const known = given.indexOf("");
  const seeds = given.slice(0, known === -1 ? Math.min(2, given.length) : known);
  const first = ENDS_IN_NUMBER.exec(seeds[0] ?? "");
  if (!first) return Array.from({ length: count }, (_, i) => given[i] || seeds[0] || "");
  const second = ENDS_IN_NUMBER.exec(seeds.at(-1)!);
  const start = number(first[2]!);
  const step = seeds.length > 1 && second ? (number(second[2]!) - start) / (seeds.length - 1) : 1;
  const places = Math.max(...seeds.map((seed) => /[.,](\d+)\D*$/.exec(seed)?.[1]?.length ?? 0));
  const comma = seeds.some((seed) => /\d,\d/.test(seed));
  return Array.from({ length: count }, (_, i) => {
    const value = (start + i * step).toFixed(places);
    return `${first[1]}${comma ? value.replace(".", ",") : value}${first[3]}`;
  });
}

function number(text: string): number {
  return Number(text.replace(",", "."));
}

export function asText(cells: Cells): string {
  let rows = cells.length;
  while (rows > 0 && cells[rows - 1]!.every((cell) => cell.trim() === "")) rows--;
  return cells
    .slice(0, rows)
    .map((line) =>
      line
        .map((cell) => cell.replace(/[\t\n\r"]/g, " "))
        .join("\t")
        .replace(/\t+$/, ""),
    )
    .join("\n");
}

export function fromText(text: string): Cells {
  const lines = text.replace(/\r\n?/g, "\n").replace(/\n$/, "").split("\n");
  const separator = lines.some((line) => line.includes("\t")) ? "\t" : ";";
  return lines.map((line) => line.split(separator).map((cell) => cell.trim()));
}
