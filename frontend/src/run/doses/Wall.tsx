/* A wall of small curves, one for each series: sorted by what is asked, and a click leads to the curve itself. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useMemo, useRef, useState } from "react";
import type { Curve, Effect } from "../../api/schema";
import { polyline } from "../../plot/path";
import { useSize } from "../../plot/useSize";
import { Segments } from "../../ui/Choice";
import { useWorkspace } from "../workspace";

const CELL = { width: 172, height: 118 };
const SLOTS = 32; // rows of tiles, more than any screen shows at once
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
  effect: Effect | undefined;
}

/** Those with a number first; then bounds, those without effect, those without a curve. */
function rank({ effect }: Tile): number {
  const dose = effect?.doses[0]?.relative;
  if (!dose) return 4;
  if (dose.value != null) return 0;
  return dose.censor ? 1 : dose.shown === "none shown" ? 2 : 3;
}

function arranged(tiles: readonly Tile[], order: Order): readonly Tile[] {
  if (order === "plate") return tiles;
  return [...tiles].sort((a, b) => {
    if (order === "quality") return (b.effect?.r_squared ?? -1) - (a.effect?.r_squared ?? -1);
    if (order === "shape")
      return (
        rank(a) - rank(b) ||
        (a.effect?.symbol ?? "").localeCompare(b.effect?.symbol ?? "") ||
        (a.effect?.slope ?? 0) - (b.effect?.slope ?? 0)
      );
    return (
      rank(a) - rank(b) ||
      (a.effect?.doses[0]?.relative?.value ?? 0) - (b.effect?.doses[0]?.relative?.value ?? 0)
    );
  });
}

export function Wall({ onOpen }: { onOpen: () => void }) {
  const { view, curves, curve, chooseCurve } = useWorkspace();
  const { effects = [], level_unit } = view.revision.outcome;
  const [order, setOrder] = useState<Order>("plate");
  const scroller = useRef<HTMLDivElement>(null);
  const size = useSize(scroller);
  const tiles = useMemo(() => {
    const by = new Map(effects.map((effect) => [effect.name, effect]));
    return arranged(
      curves.map((each) => ({ curve: each, effect: by.get(each.key ?? "") })),
      order,
    );
  }, [curves, effects, order]);
  const frame = useMemo(() => frameOf(curves), [curves]);
  const exceptions = curves.filter((each) => each.own).length;
  const across = Math.max(1, Math.floor((size.width || 1200) / CELL.width));
  const rows = useVirtualizer({
    count: Math.ceil(tiles.length / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => CELL.height,
    overscan: 3,
  });
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
      <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto">
        <ul style={{ height: rows.getTotalSize() }} className="relative">
          {rows.getVirtualItems().flatMap((row) =>
            tiles.slice(row.index * across, (row.index + 1) * across).map((tile, i) => (
              <li
                // A tile that scrolls out is drawn over with the next, which costs less than a new one.
                key={`${row.index % SLOTS} ${i}`}
                className="absolute"
                style={{
                  transform: `translate(${i * CELL.width}px, ${row.start}px)`,
                  width: CELL.width,
                  height: CELL.height,
                }}
              >
                <SmallCurve
                  tile={tile}
                  frame={frame}
                  chosen={tile.curve.key === curve.key}
                  onOpen={() => {
                    chooseCurve(tile.curve.key ?? "");
                    onOpen();
                  }}
                />
              </li>
            )),
          )}
        </ul>
      </div>
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

const SmallCurve = memo(function SmallCurve({ tile: { curve, effect }, frame, chosen, onOpen }: SmallProps) {
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
  const dose = effect?.doses[0]?.relative;
  const remark = effect?.remarks?.[0];
  const color = dose?.value != null ? "var(--color-cupric)" : "var(--color-graphite)";
  const mark = curve.marks?.[0];
  return (
    <button
      type="button"
      onClick={onOpen}
      aria-label={`${curve.key}: ${effect?.symbol ?? ""} ${dose?.shown ?? "no curve"}${remark ? `, ${remark.short}` : ""}${curve.own ? `, by a setting of its own` : ""}`}
      title={remark?.text ?? `R² ${effect?.shown_r_squared ?? "—"}`}
      className={`h-full w-full rounded-lg border p-0 text-left hover:border-graphite ${chosen ? "border-permanganate bg-permanganate-tint" : "border-transparent"}`}
    >
      <svg width={CELL.width} height={CELL.height} aria-hidden>
        <text x={PLOT.left} y={15} fontSize={12} fontWeight={600} fill="var(--color-ink)">
          {(curve.key ?? "").length > 12 ? `${(curve.key ?? "").slice(0, 11)}…` : curve.key}
        </text>
        <text x={PLOT.right} y={15} fontSize={12} textAnchor="end" fill={color}>
          {dose?.value == null
            ? (dose?.shown ?? "no curve")
            : `${effect!.symbol}${effect!.doses[0]!.percent} ${dose.shown}`}
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
          strokeDasharray={dose?.value != null ? undefined : "4 3"}
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
