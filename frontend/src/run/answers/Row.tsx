/* One row of the answers. Drawn anew only when it changes, or is pointed at. */
import { memo } from "react";
import type { AnswerColumn, AnswerRow } from "../../api/schema";
import { RoleMark } from "../../ui/RoleMark";
import { SERIES } from "../figure/choices";
import { useIsHovered } from "../state/hover";
import { type Cell, cellAt, spanOf } from "./table";
import type { Shown } from "./widths";

export const ROW = 27;

interface Props {
  row: AnswerRow;
  /** Its place in the table. */
  at: number;
  columns: readonly Shown[];
  top: number;
  grid: React.CSSProperties;
  /** Of a series: the place of its curve, by which it has its color. */
  color: number;
  selected: boolean;
}

export const AnswerLine = memo(function AnswerLine({ row, at, columns, top, grid, color, selected }: Props) {
  const hovered = useIsHovered(row.group);
  return (
    <div
      role="row"
      aria-selected={selected}
      data-answer={row.key}
      data-of={row.group}
      style={{ ...grid, transform: `translateY(${top}px)`, height: ROW }}
      className={`absolute inset-x-0 grid cursor-pointer items-center gap-x-[5px] border-b border-rule/70 ${selected ? "bg-permanganate-tint" : hovered ? "bg-rule/40" : ""}`}
    >
      <span role="cell" className="min-w-0">
        <button
          type="button"
          data-first={at === 0 ? "" : undefined}
          className="flex w-full items-center gap-1.5 text-left font-semibold"
          title={`${row.name}: ${row.series == null ? "show working" : "look at its curve"}`}
        >
          {row.series == null ? <RoleMark role={row.role} /> : <SeriesMark place={color} />}
          <span className="truncate" title={row.name}>
            {row.name}
          </span>
        </button>
      </span>
      {columns.map(({ column, interval }) => {
        const cell = cellAt(column, at);
        return (
          <span key={column.id} className="contents">
            <NumberCell column={column} cell={cell} />
            {interval && (
              <span role="cell" className="truncate whitespace-nowrap text-right text-graphite">
                {/* Where the answer has no interval, its place says why. */}
                {spanOf(cell) || (column.lead && <Remark remarks={row.remarks?.slice(0, 1) ?? []} />)}
              </span>
            )}
          </span>
        );
      })}
      <span role="cell" className="min-w-0 truncate pl-2">
        <Remark remarks={row.remarks ?? []} />
      </span>
    </div>
  );
});

function SeriesMark({ place }: { place: number }) {
  return (
    <svg viewBox="-6 -6 12 12" className="size-2.5 shrink-0" aria-hidden>
      <rect x={-4} y={-4} width={8} height={8} fill={SERIES[Math.max(place, 0) % SERIES.length]} />
    </svg>
  );
}

function NumberCell({ column, cell }: { column: AnswerColumn; cell: Cell }) {
  const full = cell.value === null ? "" : `In full: ${cell.value}`;
  const title = full && cell.lower ? `${full}; interval ${spanOf(cell)}` : full;
  return (
    <span
      role="cell"
      data-column={column.id}
      title={column.working ? undefined : title || undefined}
      className={`whitespace-nowrap text-right ${column.lead ? "font-bold" : ""}`}
    >
      {column.working && cell.text !== "—" ? (
        <button type="button" title={`${title} – show working`} className="hover:text-permanganate">
          {cell.text}
        </button>
      ) : (
        cell.text
      )}
    </span>
  );
}

function Remark({ remarks }: { remarks: NonNullable<AnswerRow["remarks"]> }) {
  // Shortest first, so that where they are cut no number is.
  const shorts = remarks.map((each) => each.short).sort((a, b) => a.length - b.length);
  return (
    <span
      className={`text-sm ${remarks[0]?.state === "fail" ? "text-cinnabar" : "text-iodine"}`}
      title={remarks.map((each) => each.text).join(" ")}
    >
      {shorts.join(", ")}
    </span>
  );
}
