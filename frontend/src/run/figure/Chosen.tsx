/* What is pointed at or selected: lines to both axes and a callout for a sample, a name and a place for a reading. */
import type { AnswerRow, Curve, Point, RunView } from "../../api/schema";
import { placeOf } from "../plate/geometry";
import { shownLevel } from "../readings/levels";
import { useHovered } from "../state/hover";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { LEFT, type Plot, TOP } from "./plot";

const TURNS = 0.62; // share of the width beyond which words stand to the left
const CALLOUT = 190;

interface Props {
  curve: Curve;
  points: readonly Point[];
  plot: Plot;
}

export function Chosen({ curve, points, plot }: Props) {
  const { view, room, groups, readings } = useOpenRun();
  const { selection } = useSelection();
  const hovered = useHovered();
  const { x, y, width, bottom, shown } = plot;
  const active = hovered ?? selection?.group ?? null;
  const reading = hovered === null || hovered === selection?.group ? (selection?.reading ?? null) : null;
  const own = curve.samples.filter((sample) => sample.group === active && shown(sample));
  const chosen = own.find((sample) => sample.reading === reading) ?? own[0];
  if (chosen) {
    const row = rowOf(view, chosen.group, chosen.reading ?? null);
    const said = row && room.figure.callout?.(view, row);
    const left = x(chosen.x) > width * TURNS;
    return (
      <>
        <path
          d={`M${LEFT} ${y(chosen.y)}H${x(chosen.x)}V${bottom}`}
          fill="none"
          stroke="var(--color-permanganate)"
          strokeWidth={1.5}
          strokeDasharray="5 3"
          pointerEvents="none"
        />
        {said && (
          <g
            transform={`translate(${x(chosen.x) + (left ? -12 : 12)},${Math.min(y(chosen.y) + 26, bottom - 34)})`}
            pointerEvents="none"
          >
            <rect
              x={left ? -CALLOUT : 0}
              y={-15}
              width={CALLOUT}
              height={40}
              rx={7}
              fill="var(--color-chalk)"
              stroke="var(--color-permanganate)"
            />
            <text x={left ? 10 - CALLOUT : 10} fontSize={13} fontWeight={600}>
              {said.title}
            </text>
            <text x={left ? 10 - CALLOUT : 10} y={17} fontSize={12} fill="var(--color-graphite)">
              {said.detail}
            </text>
          </g>
        )}
      </>
    );
  }
  const picked = selection?.reading == null ? undefined : points.find((p) => p.reading === selection.reading);
  if (!picked) return null;
  const left = x(picked.x) > width * TURNS;
  const level = `${shownLevel(picked.x)} ${view.revision.layout.level.unit ?? ""}`.trim();
  const place = placeOf(readings.get(picked.reading), view.readings.plates ?? []).replace(/^, /, "");
  const name = groups.get(picked.group)?.name ?? "";
  const said = [name.length > 24 ? `${name.slice(0, 23)}…` : name, level, place];
  return (
    <g
      transform={`translate(${x(picked.x) + (left ? -10 : 10)},${Math.min(Math.max(y(picked.y) - 12, TOP + 14), bottom - 8)})`}
      pointerEvents="none"
    >
      <text
        textAnchor={left ? "end" : "start"}
        fontSize={12}
        fontWeight={600}
        stroke="var(--color-chalk)"
        strokeWidth={4}
        paintOrder="stroke"
      >
        {said.filter(Boolean).join(" · ")}
      </text>
    </g>
  );
}

function rowOf(view: RunView, group: string, reading: number | null): AnswerRow | undefined {
  const rows = view.revision.outcome.answers.rows ?? [];
  return rows.find((row) => row.group === group && (row.reading ?? null) === reading);
}
