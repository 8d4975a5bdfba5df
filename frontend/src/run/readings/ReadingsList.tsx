/* The readings as a list, one line a group: every cell can be selected, excluded and included, by mouse or key. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { ContextMenu } from "radix-ui";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { Group } from "../../api/schema";
import { Segments } from "../../ui/Choice";
import { RoleMark } from "../../ui/RoleMark";
import { useWorkspace } from "../workspace";

type Shown = "raw" | "corrected";
const ROW = 28;

export function ReadingsList() {
  const { view, selection, select } = useWorkspace();
  const [shown, setShown] = useState<Shown>("raw");
  const groups = view.revision.layout.groups;
  // Replicates stand under each other: every line has room for as many cells as the longest, up to four.
  const cells = Math.min(Math.max(...groups.map((group) => group.readings.length), 1), 4);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: groups.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const at = selection ? groups.findIndex((group) => group.id === selection.group) : -1;
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(at, { align: "auto" });
  }, [at, rows]);

  const move = (event: KeyboardEvent) => {
    const step = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[event.key];
    if (!step) return;
    event.preventDefault();
    const row = Math.min(Math.max(at + step[0]!, 0), groups.length - 1);
    const group = groups[row];
    if (!group) return;
    const place = selection?.reading == null || at < 0 ? -1 : groups[at]!.readings.indexOf(selection.reading);
    const next = Math.min(place + step[1]!, group.readings.length - 1);
    select({ group: group.id, reading: next < 0 ? null : group.readings[next]! });
  };
  return (
    <div className="flex min-h-[160px] flex-1 flex-col">
      <div className="flex items-center justify-between p-3 pb-2">
        <h2 className="text-lg">Readings</h2>
        <Segments
          label="Show"
          value={shown}
          options={[
            { value: "raw", text: "Raw" },
            { value: "corrected", text: "Corrected" },
          ]}
          onChange={setShown}
        />
      </div>
      <div
        ref={scroller}
        role="grid"
        tabIndex={0}
        aria-label="Readings by group; arrows move, X excludes, A assigns"
        aria-rowcount={groups.length}
        onKeyDown={move}
        className="min-h-0 flex-1 overflow-auto border-t border-rule text-md -outline-offset-2"
      >
        <div style={{ height: rows.getTotalSize() }} className="relative">
          {rows.getVirtualItems().map((item) => (
            <div
              key={groups[item.index]!.id}
              className="absolute inset-x-0"
              style={{ transform: `translateY(${item.start}px)`, height: ROW }}
            >
              <GroupRow group={groups[item.index]!} shown={shown} cells={cells} />
            </div>
          ))}
        </div>
      </div>
    </div>
  );
}

function GroupRow({ group, shown, cells }: { group: Group; shown: Shown; cells: number }) {
  const { selection, select, hovered, hover, view } = useWorkspace();
  const selected = selection?.group === group.id;
  const unit = view.revision.layout.level.unit;
  const aside =
    group.level != null && group.role !== "blank"
      ? `${group.level} ${unit}`.trim()
      : group.dilution !== 1
        ? `× ${group.dilution}`
        : "";
  return (
    <div
      role="row"
      aria-selected={selected}
      data-group={group.id}
      onPointerEnter={() => hover(group.id)}
      onPointerLeave={() => hover(null)}
      className={`flex h-7 items-center border-b border-rule/70 pl-3 ${selected ? "bg-permanganate-tint" : hovered === group.id ? "bg-rule/40" : ""}`}
    >
      <div role="rowheader" className="flex min-w-0 flex-1">
        <button
          type="button"
          tabIndex={-1}
          onClick={() => select({ group: group.id, reading: null })}
          className="flex min-w-0 flex-1 items-center gap-1.5 text-left"
          title={group.note ? `${group.name} — ${group.note}` : group.name}
        >
          <RoleMark role={group.role} />
          <span className="truncate font-semibold">{group.name}</span>
          <span className="shrink-0 text-sm text-graphite">{aside}</span>
        </button>
      </div>
      <div className="flex shrink-0 overflow-x-auto pr-2" style={{ width: cells * 56 + 8 }}>
        {group.readings.map((id, i) => (
          <ReadingCell key={id} group={group} id={id} number={i + 1} shown={shown} />
        ))}
      </div>
    </div>
  );
}

interface CellProps {
  group: Group;
  id: number;
  number: number;
  shown: Shown;
}

function ReadingCell({ group, id, number, shown }: CellProps) {
  const { readings, outcomes, excluded, selection, select, toggleExcluded, assign } = useWorkspace();
  const reading = readings.get(id)!;
  const outcome = outcomes.get(id)!;
  const reason = excluded.get(id);
  const selected = selection?.reading === id;
  const text = shown === "raw" ? reading.text || "—" : outcome.shown;
  const look = reason
    ? "text-cinnabar line-through decoration-cinnabar"
    : outcome.used || group.role === "unused"
      ? ""
      : "text-iodine";
  const item =
    "rounded-md px-3 py-1 outline-none data-[highlighted]:bg-permanganate-tint flex justify-between gap-6";
  return (
    <ContextMenu.Root onOpenChange={(open) => open && select({ group: group.id, reading: id })}>
      <ContextMenu.Trigger asChild>
        <button
          type="button"
          role="gridcell"
          tabIndex={-1}
          data-reading={id}
          aria-selected={selected}
          aria-label={`${group.name} reading ${number}: ${text}${outcome.why ? `, ${outcome.why}` : ""}`}
          title={outcome.why || undefined}
          onClick={() => select({ group: group.id, reading: id })}
          className={`h-6 w-14 shrink-0 truncate rounded-md px-1.5 text-right ${look} ${selected ? "outline-2 -outline-offset-1 outline-permanganate bg-chalk" : ""}`}
        >
          {text}
        </button>
      </ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className="z-50 min-w-[190px] rounded-md border border-rule bg-chalk p-1 shadow-lg">
          <ContextMenu.Item
            className={item}
            onSelect={() => toggleExcluded({ group: group.id, reading: id })}
          >
            {reason ? "Include again" : "Exclude…"} <kbd className="text-graphite">X</kbd>
          </ContextMenu.Item>
          <ContextMenu.Item
            className={item}
            onSelect={() => toggleExcluded({ group: group.id, reading: null })}
          >
            {group.readings.every((each) => excluded.has(each)) ? "Include all again" : "Exclude all of it…"}
          </ContextMenu.Item>
          <ContextMenu.Item className={item} onSelect={() => assign(group.id)}>
            Assign… <kbd className="text-graphite">A</kbd>
          </ContextMenu.Item>
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}
