/* Answers: one row for each sample or series, whatever was asked; sorted, filtered, copied and downloaded. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type MouseEvent, useEffect, useMemo, useRef, useState } from "react";
import type { AnswerColumn } from "../../api/schema";
import { useSize } from "../../plot/useSize";
import { Button } from "../../ui/Button";
import { ExportLinks } from "../exports";
import { useCurves } from "../state/curves";
import { hover } from "../state/hover";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { arranged, type Order, SortButton, sortOf } from "./order";
import { AnswerLine, ROW } from "./Row";
import { headingOf } from "./table";
import { fitting, gridOf, shownColumns } from "./widths";

const PAGE = 10; // rows that Page Up and Page Down go over
const MANY = 6; // rows above which they can be filtered

export function AnswersTable() {
  const { view, room } = useOpenRun();
  const { selection, select, showNumber } = useSelection();
  const { curve, curves, chooseCurve } = useCurves();
  const { answers: table, level_unit } = view.revision.outcome;
  const all = table.rows ?? [];
  const [wanted, setWanted] = useState("");
  const [more, setMore] = useState(false);
  const [order, setOrder] = useState<Order>({ by: null, down: false });
  const rows = useMemo(() => arranged(table, wanted, order), [table, wanted, order]);
  const scroller = useRef<HTMLDivElement>(null);
  const { width } = useSize(scroller);
  const wide = useMemo(() => shownColumns(table, more), [table, more]);
  const columns = useMemo(() => (more ? wide : fitting(table, wide, width)), [table, wide, more, width]);
  const grid = useMemo(() => gridOf(table, columns), [table, columns]);
  const hasMore =
    columns.length < wide.length || (table.columns ?? []).some((column) => column.where === "more");
  const lines = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const isSelected = (at: number) => {
    const row = all[at]!;
    if (row.series != null) return curves.length > 1 && row.curve === curve.key;
    return (
      selection?.group === row.group &&
      (row.reading == null || selection.reading === null || row.reading === selection.reading)
    );
  };
  const at = rows.findIndex(isSelected);
  useEffect(() => {
    if (at >= 0) lines.scrollToIndex(at, { align: "auto" });
  }, [at, lines]);
  const choose = (event: MouseEvent) => {
    const row = all.find((each) => each.key === keyAt(event));
    if (!row) return;
    if (row.series == null) select({ group: row.group, reading: row.reading ?? null });
    else chooseCurve(row.curve ?? "");
    const id = (event.target as HTMLElement).closest<HTMLElement>("[data-column]")?.dataset.column;
    const column = columns.find(({ column }) => column.id === id)?.column;
    const tag = curves.find((each) => each.key === row.curve)?.tag ?? "";
    if (column?.working)
      showNumber({
        id: `${tag}${column.working}`,
        title: `${row.name}, ${headingOf(column)}`,
        answer: row.key,
      });
  };
  const going = useRef<number | null>(null);
  const onKeyDown = (event: KeyboardEvent) => {
    // Keys that come before the row does go on from where it will be.
    const here = going.current ?? rows.findIndex((each) => all[each]!.key === keyAt(event));
    const to = {
      ArrowDown: here + 1,
      ArrowUp: here - 1,
      PageDown: here + PAGE,
      PageUp: here - PAGE,
      Home: 0,
      End: rows.length,
    }[event.key];
    if (to === undefined || here < 0) return;
    event.preventDefault();
    event.stopPropagation();
    const index = Math.min(Math.max(to, 0), rows.length - 1);
    lines.scrollToIndex(index, { align: "auto" });
    // The row is made when it comes into view.
    going.current = index;
    requestAnimationFrame(() => {
      if (going.current === index) going.current = null;
      const key = CSS.escape(all[rows[index]!]!.key);
      scroller.current?.querySelector<HTMLElement>(`[data-answer="${key}"] button`)?.focus();
    });
  };
  const rowsSaid = all.length === 1 ? "1 row" : `${all.length.toLocaleString("en-GB")} rows`;
  return (
    <>
      <div className="mb-1.5 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 className="text-lg">Answers</h2>
        <span className="whitespace-nowrap text-graphite">
          {table.of === "Series" ? `${all.length.toLocaleString("en-GB")} series` : rowsSaid}
          {rows.length !== all.length && `, ${rows.length.toLocaleString("en-GB")} shown`}
          {level_unit && `, ${level_unit}`}
        </span>
        {all.length > MANY && (
          <input
            aria-label="Show only answers with"
            value={wanted}
            placeholder="name, remark …"
            onChange={(event) => setWanted(event.target.value)}
            className="w-[150px] rounded-md border border-rule bg-chalk px-2 text-md placeholder:text-graphite"
          />
        )}
        <span className="ml-auto flex gap-4">
          {hasMore && (
            <Button look="text" aria-pressed={more} onClick={() => setMore(!more)}>
              {more ? "Fewer columns" : "More columns"}
            </Button>
          )}
          <ExportLinks run={view.run.id} count={all.length} />
        </span>
      </div>
      {all.length === 0 ? (
        <p className="text-graphite">{room.answers.none}</p>
      ) : (
        <div ref={scroller} className="min-h-0 flex-1 overflow-auto text-md">
          <div
            role="table"
            aria-label="Answers"
            aria-rowcount={rows.length}
            style={{ minWidth: grid.minWidth }}
            onClick={choose}
            onKeyDown={onKeyDown}
            onPointerOver={(event) => hover(groupAt(event))}
            onPointerLeave={() => hover(null)}
          >
            <div
              role="row"
              style={grid}
              className="sticky top-0 z-10 grid items-center gap-x-[5px] border-b border-rule bg-paper pb-1 text-sm text-graphite"
            >
              <span role="columnheader" aria-sort={sortOf(order, "")}>
                <SortButton id="" name={table.of ?? "Name"} order={order} onOrder={setOrder} />
              </span>
              {columns.map(({ column, interval }) => (
                <span
                  key={column.id}
                  role="columnheader"
                  aria-sort={sortOf(order, column.id)}
                  aria-colspan={interval ? 2 : undefined}
                  title={noteOf(column, interval)}
                  className={`whitespace-nowrap text-right ${interval ? "col-span-2" : ""}`}
                >
                  <SortButton
                    id={column.id}
                    name={headingOf(column, interval)}
                    order={order}
                    onOrder={setOrder}
                  />
                </span>
              ))}
              <span role="columnheader" className="pl-2">
                Remarks
              </span>
            </div>
            <div role="rowgroup" style={{ height: lines.getTotalSize() }} className="relative">
              {lines.getVirtualItems().map((item) => {
                const at = rows[item.index]!;
                return (
                  <AnswerLine
                    key={all[at]!.key}
                    row={all[at]!}
                    at={at}
                    columns={columns}
                    top={item.start}
                    grid={grid}
                    color={curves.findIndex((each) => each.key === all[at]!.curve)}
                    selected={isSelected(at)}
                  />
                );
              })}
            </div>
          </div>
          {room.answers.Below && <room.answers.Below />}
        </div>
      )}
    </>
  );
}

function noteOf(column: AnswerColumn, interval: boolean): string | undefined {
  const level = interval ? `With its ${100 * (column.level ?? 0.95)} % interval` : "";
  return [column.note, level].filter(Boolean).join(". ") || undefined;
}

function keyAt(event: MouseEvent | KeyboardEvent): string | undefined {
  return (event.target as HTMLElement).closest<HTMLElement>("[data-answer]")?.dataset.answer;
}

function groupAt(event: MouseEvent): string | null {
  return (event.target as HTMLElement).closest<HTMLElement>("[data-of]")?.dataset.of ?? null;
}
