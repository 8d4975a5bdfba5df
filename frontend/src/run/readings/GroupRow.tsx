/* One line of the readings list: a group, what is known of it, and its readings. Drawn anew only when it changes. */
import { memo } from "react";
import type { Group, Reading, ReadingOutcome } from "../../api/schema";
import { RoleMark } from "../../ui/RoleMark";
import { useIsHovered } from "../state/hover";

export type Shown = "raw" | "corrected";
export const ROW = 28;
export const CELL = 56;
export const COURSE = 100; // of "0.053 … 0.32"

interface Props {
  group: Group;
  top: number;
  shown: Shown;
  cells: number;
  /** Width of one of them, in px. */
  cell: number;
  unit: string;
  readings: ReadonlyMap<number, Reading>;
  outcomes: ReadonlyMap<number, ReadingOutcome>;
  excluded: ReadonlyMap<number, string>;
  selected: boolean;
  selectedReading: number | null;
}

export const GroupRow = memo(function GroupRow(props: Props) {
  const { group, selected, selectedReading } = props;
  const hovered = useIsHovered(group.id);
  return (
    <div
      role="row"
      aria-selected={selected}
      data-group={group.id}
      style={{ transform: `translateY(${props.top}px)`, height: ROW }}
      className={`absolute inset-x-0 flex cursor-pointer items-center border-b border-rule/70 pl-3 ${selected ? "bg-permanganate-tint" : hovered ? "bg-rule/40" : ""}`}
    >
      <div
        role="rowheader"
        className="flex min-w-0 flex-1 items-center gap-1.5"
        title={group.note ? `${group.name} — ${group.note}` : group.name}
      >
        <RoleMark role={group.role} />
        <span className="truncate font-semibold">{group.name}</span>
        <span className="shrink-0 text-sm text-graphite">{known(group, props.unit)}</span>
      </div>
      <div className="flex shrink-0 overflow-x-auto pr-2" style={{ width: props.cells * props.cell + 8 }}>
        {group.readings.map((id, i) => {
          const outcome = props.outcomes.get(id)!;
          const text = props.shown === "raw" ? props.readings.get(id)!.text || "—" : outcome.shown;
          const look = props.excluded.has(id)
            ? "text-cinnabar line-through decoration-cinnabar"
            : (outcome.used && !outcome.aside) || group.role === "unused"
              ? ""
              : outcome.aside
                ? "text-iodine italic"
                : "text-iodine";
          const why = outcome.why || outcome.aside;
          const here =
            selectedReading === id ? "bg-chalk outline-2 -outline-offset-1 outline-permanganate" : "";
          return (
            <span
              key={id}
              role="gridcell"
              data-reading={id}
              aria-selected={selectedReading === id}
              aria-label={`${group.name} reading ${i + 1}: ${text}${why ? `, ${why}` : ""}`}
              title={why || undefined}
              style={{ width: props.cell }}
              className={`h-6 shrink-0 truncate rounded-md px-1.5 text-right leading-6 ${look} ${here}`}
            >
              {text}
            </span>
          );
        })}
      </div>
    </div>
  );
}, alike);

/** The level or the dilution, whichever tells the group apart. */
function known(group: Group, unit: string): string {
  const level = group.level == null ? "" : `${group.level} ${unit}`.trim();
  if (level && group.role !== "blank") return group.name.endsWith(level) ? "" : level;
  return group.dilution !== 1 ? `× ${group.dilution}` : "";
}

/** The maps are new with every revision; what counts is what they say of this group's readings. */
function alike(a: Props, b: Props): boolean {
  return (
    a.group === b.group &&
    a.top === b.top &&
    a.shown === b.shown &&
    a.cells === b.cells &&
    a.cell === b.cell &&
    a.unit === b.unit &&
    a.selected === b.selected &&
    a.selectedReading === b.selectedReading &&
    a.group.readings.every(
      (id) => a.outcomes.get(id) === b.outcomes.get(id) && a.excluded.has(id) === b.excluded.has(id),
    )
  );
}
