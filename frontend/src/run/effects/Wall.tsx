/* A wall of small curves, one for each series: sorted by what is asked, and a click leads to the curve itself. */

import { memo, useMemo, useState } from "react";
import type { AnswerRow, AnswerTable, Curve } from "../../api/schema";
import { polyline } from "../../plot/path";
import { Segments } from "../../ui/Choice";
import { Tiles } from "../../ui/Tiles";
import { type Cell, cellAt, columnOf, NONE } from "../answers/table";
import { useCurves } from "../state/curves";
import { useOpenRun } from "../state/open";

const CELL = { width: 172, height: 118 };
const PLOT = { left: 6, right: 166, top: 24, bottom: 96 };

type Order = "plate" | "potency" | "quality" | "shape";
const ORDERS = [
  { value: "plate", text: "As laid out" },
  { value: "potency", text: "Potency" },
  { value: "quality", text: "Quality" },
  { value: "shape", text: "Shape" },
] as const;

interface Tile {
  curve: Curve;
  /** Its answer, where it has one: the leading dose, how good the curve is, and its shape. */
  row: AnswerRow | undefined;
  dose: Cell;
  censored: boolean;
  quality: Cell;
  kind: string;
  slope: number;
}

function tilesOf(table: AnswerTable, curves: readonly Curve[]): readonly Tile[] {
  const rows = new Map((table.rows ?? []).map((row, at) => [row.curve, [row, at] as const]));
  const lead = (table.columns ?? []).find((column) => column.lead);
  const [quality, kind, slope] = ["r_squared", "kind", "slope"].map((id) => columnOf(table, id));
  return curves.map((curve) => {
    const [row, at] = rows.get(curve.key) ?? [undefined, -1];
    const cell = (column: typeof lead) => (column && at >= 0 ? cellAt(column, at) : NONE);
    return {
      curve,
      row,
      dose: cell(lead),
      censored: Boolean(lead?.censors?.[at]),
      quality: cell(quality),
      kind: cell(kind).text,
      slope: cell(slope).value ?? 0,
    };
  });
}

/** Those with a number first; then bounds, those without effect, those without a curve. */
function rank({ row, dose, censored }: Tile): number {
  if (!row) return 4;
  if (dose.value !== null) return 0;
  return censored ? 1 : dose.text === "none shown" ? 2 : 3;
}

function arranged(tiles: readonly Tile[], order: Order): readonly Tile[] {
  if (order === "plate") return tiles;
  return [...tiles].sort((a, b) => {
    if (order === "quality") return (b.quality.value ?? -1) - (a.quality.value ?? -1);
    if (order === "shape") return rank(a) - rank(b) || a.kind.localeCompare(b.kind) || a.slope - b.slope;
    return rank(a) - rank(b) || (a.dose.value ?? 0) - (b.dose.value ?? 0);
  });
}

export function Wall({ onOpen }: { onOpen: () => void }) {
  const { view } = useOpenRun();
  const { curves, curve, chooseCurve } = useCurves();
  const { answers, level_unit } = view.revision.outcome;
  const [order, setOrder] = useState<Order>("plate");
  const tiles = useMemo(() => arranged(tilesOf(answers, curves), order), [answers, curves, order]);
  const frame = useMemo(() => frameOf(curves), [curves]);
  const exceptions = curves.filter((each) => each.own).length;
  return (
    <section aria-label="Wall of curves" className="flex min-h-0 flex-1 flex-col p-4">
      <div className="mb-2 flex items-center gap-4">
        <h2 className="text-lg">{curves.length} curves</h2>
        <Segments label="Sorted by" value={order} options={ORDERS} onChange={setOrder} />
        <span className="text-graphite">
          All on one scale{level_unit && `, doses in ${level_unit}`}. The Working holds for all
          {exceptions > 0 && ` but ${exceptions} with a setting of ${exceptions === 1 ? "its" : "their"} own`}
          ; click a curve to work on it.
        </span>
      </div>
      <Tiles
        tiles={tiles}
        cell={CELL}
        draw={(tile) => (
          <SmallCurve
            tile={tile}
            frame={frame}
            chosen={tile.curve.key === curve.key}
            onOpen={() => {
              chooseCurve(tile.curve.key ?? "");
              onOpen();
            }}
          />
        )}
      />
    </section>
  );
}

interface Frame {
  low: number;
  high: number;
  bottom: number;
  top: number;
}

/** One frame for all, so that heights and places can be compared at a glance. */
function frameOf(curves: readonly Curve[]): Frame {
  const doses = curves.flatMap((curve) => curve.levels.filter((level) => level > 0));
  const values = curves.flatMap((curve) => (curve.means ?? []).map((mean) => mean.y)).sort((a, b) => a - b);
  // The outermost two in a hundred may leave the frame, so that one wild well does not flatten all others.
  const at = (share: number) => values[Math.round(share * (values.length - 1))] ?? 0;
  const [bottom, top] = [Math.min(at(0.02), 0), at(0.98)];
  return {
    low: Math.log(Math.min(...doses)),
    high: Math.log(Math.max(...doses)),
    bottom,
    top: top > bottom ? top * 1.1 : bottom + 1,
  };
}

interface SmallProps {
  tile: Tile;
  frame: Frame;
  chosen: boolean;
  onOpen: () => void;
}

const SmallCurve = memo(function SmallCurve({ tile, frame, chosen, onOpen }: SmallProps) {
  const { curve, row, dose, quality } = tile;
  const x = (dose: number) =>
    PLOT.left + ((Math.log(dose) - frame.low) / (frame.high - frame.low || 1)) * (PLOT.right - PLOT.left);
  const y = (value: number) =>
    Math.min(
      Math.max(
        PLOT.bottom - ((value - frame.bottom) / (frame.top - frame.bottom)) * (PLOT.bottom - PLOT.top),
        PLOT.top - 1,
      ),
      PLOT.bottom + 6,
    );
  const at = curve.line.x.flatMap((dose, i) =>
    dose > 0 && Math.log(dose) >= frame.low && Math.log(dose) <= frame.high ? [i] : [],
  );
  const remark = row?.remarks?.[0];
  const found = dose.value !== null;
  const color = found ? "var(--color-cupric)" : "var(--color-graphite)";
  const mark = curve.marks?.[0];
  const said = found && mark ? mark.text : dose.text || "no curve";
  return (
    <button
      type="button"
      onClick={onOpen}
      aria-label={`${curve.key}: ${said}${remark ? `, ${remark.short}` : ""}${curve.own ? `, by a setting of its own` : ""}`}
      title={remark?.text ?? (quality.text && `R² ${quality.text}`)}
      className={`h-full w-full rounded-lg border p-0 text-left hover:border-graphite ${chosen ? "border-permanganate bg-permanganate-tint" : "border-transparent"}`}
    >
      <svg width={CELL.width} height={CELL.height} aria-hidden>
        <text x={PLOT.left} y={15} fontSize={12} fontWeight={600} fill="var(--color-ink)">
          {(curve.key ?? "").length > 12 ? `${(curve.key ?? "").slice(0, 11)}…` : curve.key}
        </text>
        <text x={PLOT.right} y={15} fontSize={12} textAnchor="end" fill={color}>
          {said}
        </text>
        <path
          d={`M${PLOT.left} ${y(0)}H${PLOT.right}M${PLOT.left} ${PLOT.top}V${PLOT.bottom}`}
          stroke="var(--color-rule)"
        />
        {mark && (
          <path d={`M${x(mark.x)} ${y(mark.y)}V${PLOT.bottom}`} stroke={color} strokeDasharray="3 2" />
        )}
        <path
          d={polyline(
            at.map((i) => x(curve.line.x[i]!)),
            at.map((i) => y(curve.line.y[i]!)),
          )}
          fill="none"
          stroke={color}
          strokeWidth={1.6}
          strokeDasharray={found ? undefined : "4 3"}
        />
        {/* All dots as one path: of a wall there are thousands. */}
        <path
          d={(curve.means ?? [])
            .filter((mean) => mean.x > 0)
            .map((mean) => `M${x(mean.x).toFixed(1)} ${y(mean.y).toFixed(1)}h0`)
            .join("")}
          stroke="var(--color-ink)"
          strokeWidth={4.8}
          strokeLinecap="round"
        />
        {curve.own && (
          <text
            x={PLOT.right}
            y={CELL.height - 6}
            fontSize={11}
            textAnchor="end"
            fill="var(--color-permanganate)"
          >
            {curve.name.length > 14 ? "own setting" : curve.name}
          </text>
        )}
        {remark && (
          <text x={PLOT.left} y={CELL.height - 6} fontSize={11} fill="var(--color-iodine)">
            {remark.short}
          </text>
        )}
      </svg>
    </button>
  );
});
