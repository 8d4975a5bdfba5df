/* Every course as a small picture with its window and its line; a click leads to the course itself. */
import { memo, useMemo, useState } from "react";
import { useCourseLines } from "../../../api/hooks";
import type { Curve, RunView } from "../../../api/schema";
import { polyline } from "../../../plot/path";
import { Pick, Segments } from "../../../ui/Choice";
import { Tiles } from "../../../ui/Tiles";
import { useCurves } from "../../state/curves";
import { stepOf, useOpenRun } from "../../state/open";

const CELL = { width: 148, height: 104 };
const PLOT = { left: 6, right: 142, top: 22, bottom: 96 };
type Order = "plate" | "value";
type Frame = "one" | "own";

interface Line {
  x: readonly number[];
  y: readonly number[];
}

interface Tile {
  curve: Curve;
  line: Line | undefined;
  value: number | null;
  text: string;
}

export function CoursesWall({ onOpen }: { onOpen: () => void }) {
  const { view } = useOpenRun();
  const { curves, curve, chooseCurve } = useCurves();
  const [order, setOrder] = useState<Order>("plate");
  const [frames, setFrames] = useState<Frame>("one");
  const { part } = view.revision.outcome;
  const quantities = part.kind === "rate" ? (part.quantities ?? []) : [];
  const [asked, setAsked] = useState("");
  const quantity = quantities.find((each) => each.id === asked) ?? quantities[0];
  const { data } = useCourseLines(view.run.id, view.revision.number, madeOf(view));
  const lines = useMemo(() => new Map((data?.courses ?? []).map((each) => [each.key, each])), [data]);
  const tiles = useMemo(() => {
    const made: Tile[] = curves.map((each, i) => ({
      curve: each,
      line: lines.get(each.key ?? ""),
      value: quantity?.values[i] ?? null,
      text: quantity?.shown[i] ?? "—",
    }));
    return order === "plate" ? made : made.sort((a, b) => (b.value ?? -1e300) - (a.value ?? -1e300));
  }, [curves, lines, quantity, order]);
  const ends = useMemo(() => endsOf([...lines.values()]), [lines]);
  const plates = view.readings.plates ?? [];
  // A plate of twelve columns or fewer stands as it is, where its columns fit.
  const columns = plates.length === 1 ? plates[0]!.columns : Number.POSITIVE_INFINITY;
  const window = part.kind === "rate" ? { lower: part.lower ?? null, upper: part.upper ?? null } : null;
  return (
    <section aria-label="All courses" className="flex min-h-0 flex-1 flex-col p-4">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <h2 className="text-lg">{curves.length.toLocaleString("en")} courses</h2>
        {quantity && (
          <Pick
            label="Shown beside each"
            value={quantity.id}
            options={quantities.map((each) => ({ value: each.id, text: nameOf(each) }))}
            onChange={setAsked}
          />
        )}
        <Segments
          label="Sorted by"
          value={order}
          options={[
            { value: "plate", text: "As laid out" },
            { value: "value", text: "Highest first" },
          ]}
          onChange={setOrder}
        />
        <Segments
          label="Axes"
          value={frames}
          options={[
            { value: "one", text: "One scale" },
            { value: "own", text: "Own scales" },
          ]}
          onChange={setFrames}
        />
        <span className="text-graphite">The window and its line on each; click a course to work on it.</span>
      </div>
      <Tiles
        tiles={tiles}
        cell={CELL}
        across={(fits) => (order === "plate" && columns <= fits ? columns : fits)}
        draw={(tile) => (
          <SmallCourse
            tile={tile}
            ends={frames === "own" && tile.line ? endsOf([tile.line]) : ends}
            lower={window?.lower ?? null}
            upper={window?.upper ?? null}
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

function nameOf({ name, unit }: { name: string; unit: string }): string {
  return unit ? `${name} / ${unit}` : name;
}

/** What the small lines are drawn from: readings, signal, blank, and which courses there are; not the window. */
function madeOf(view: RunView): string {
  const { layout } = view.revision;
  const of = layout.groups.map((group) => [group.role, group.name, group.readings.length]);
  const out = (layout.exclusions ?? []).filter((each) => each.at == null).map((each) => each.reading);
  return JSON.stringify([
    stepOf(view, "course_signal"),
    stepOf(view, "course_blank"),
    of,
    out,
    view.revision.readings,
  ]);
}

interface Ends {
  x0: number;
  x1: number;
  y0: number;
  y1: number;
}

/** One frame for all; the outermost two in a hundred may leave it, so that one wild well does not flatten all others. */
function endsOf(lines: readonly Line[]): Ends {
  const ys = lines.flatMap((line) => line.y).sort((a, b) => a - b);
  const at = (share: number) => ys[Math.round(share * (ys.length - 1))] ?? 0;
  const share = lines.length > 20 ? 0.005 : 0;
  const [y0, y1] = [at(share), at(1 - share)];
  let [x0, x1] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const line of lines) {
    x0 = Math.min(x0, line.x[0] ?? x0);
    x1 = Math.max(x1, line.x.at(-1) ?? x1);
  }
  return { x0, x1, y0, y1: y1 > y0 ? y1 : y0 + 1 };
}

interface SmallProps {
  tile: Tile;
  ends: Ends;
  lower: number | null;
  upper: number | null;
  chosen: boolean;
  onOpen: () => void;
}

const SmallCourse = memo(
  function SmallCourse({ tile, ends, lower, upper, chosen, onOpen }: SmallProps) {
    const { curve, line, text } = tile;
    const x = (v: number) =>
      PLOT.left + ((v - ends.x0) / (ends.x1 - ends.x0 || 1)) * (PLOT.right - PLOT.left);
    const y = (v: number) =>
      Math.min(
        Math.max(
          PLOT.bottom - ((v - ends.y0) / (ends.y1 - ends.y0)) * (PLOT.bottom - PLOT.top),
          PLOT.top - 2,
        ),
        PLOT.bottom + 4,
      );
    const name = curve.key ?? "";
    const [from, to] = [lower ?? ends.x0, upper ?? ends.x1];
    return (
      <button
        type="button"
        onClick={onOpen}
        aria-label={`${name}: ${text}${curve.problem ? `, ${curve.problem}` : ""}`}
        title={curve.problem || name}
        className={`h-full w-full rounded-lg border p-0 text-left hover:border-graphite ${chosen ? "border-permanganate bg-permanganate-tint" : "border-transparent"}`}
      >
        <svg width={CELL.width - 2} height={CELL.height - 2} aria-hidden>
          <text x={PLOT.left} y={14} fontSize={12} fontWeight={600} fill="var(--color-ink)">
            {name.length > 11 ? `${name.slice(0, 10)}…` : name}
          </text>
          <text
            x={PLOT.right}
            y={14}
            fontSize={12}
            textAnchor="end"
            fill={curve.problem ? "var(--color-iodine)" : "var(--color-cupric)"}
          >
            {text}
          </text>
          {Number.isFinite(ends.x0) && (
            <>
              <rect
                x={x(from)}
                y={PLOT.top}
                width={Math.max(x(to) - x(from), 0)}
                height={PLOT.bottom - PLOT.top}
                fill="var(--color-malachite-tint)"
                opacity={lower === null && upper === null ? 0 : 0.8}
              />
              <path d={`M${PLOT.left} ${PLOT.bottom}H${PLOT.right}`} stroke="var(--color-rule)" />
              {line && (
                <path
                  d={polyline(line.x.map(x), line.y.map(y))}
                  fill="none"
                  stroke="var(--color-ink)"
                  strokeOpacity={0.75}
                />
              )}
              <path
                d={polyline(curve.line.x.map(x), curve.line.y.map(y))}
                fill="none"
                stroke="var(--color-cupric)"
                strokeWidth={1.8}
              />
            </>
          )}
        </svg>
      </button>
    );
  },
  (a, b) =>
    a.tile.line === b.tile.line &&
    a.tile.curve === b.tile.curve &&
    a.tile.text === b.tile.text &&
    a.lower === b.lower &&
    a.upper === b.upper &&
    a.chosen === b.chosen &&
    a.ends.x0 === b.ends.x0 &&
    a.ends.x1 === b.ends.x1 &&
    a.ends.y0 === b.ends.y0 &&
    a.ends.y1 === b.ends.y1,
);
