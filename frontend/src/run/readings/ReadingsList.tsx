/* The readings as a list, one line a group: every cell can be selected, excluded and included, by mouse or key. */

import { useVirtualizer } from "@tanstack/react-virtual";
import { ContextMenu } from "radix-ui";
import { type KeyboardEvent, type MouseEvent, useEffect, useRef, useState } from "react";
import { Segments } from "../../ui/Choice";
import { MOVES } from "../../ui/moves";
import { hover } from "../state/hover";
import { useOpenRun } from "../state/open";
import { type Selection, useSelection } from "../state/selection";
import { readingsOf } from "../state/useExcluding";
import { CELL, COURSE, GroupRow, ROW, type Shown } from "./GroupRow";
import { IntakeLink } from "./IntakeLink";

/** The group and reading that an event happened on, from the marks that rows and cells carry. */
function placeOf(event: MouseEvent): Selection | null {
  const target = event.target as HTMLElement;
  const group = target.closest<HTMLElement>("[data-group]")?.dataset.group;
  const reading = target.closest<HTMLElement>("[data-reading]")?.dataset.reading;
  return group ? { group, reading: reading ? Number(reading) : null } : null;
}

const COUNT = 44; // px for "10/10"

export function ReadingsList({ titled }: { titled: boolean }) {
  const { act, room, view, groups: byId, readings, outcomes, excluded } = useOpenRun();
  const { selection, select } = useSelection();
  const counted = "counted" in room.readings ? room.readings.counted : null;
  const [shown, setShown] = useState<Shown>(counted === null ? "raw" : "corrected");
  const { groups, level } = view.revision.layout;
  // Replicates stand under each other: every line has room for as many cells as the longest, up to four.
  const cells = Math.min(
    groups.reduce((most, group) => Math.max(most, group.readings.length), 1),
    4,
  );
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: groups.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 6,
  });
  const at = selection ? groups.findIndex((group) => group.id === selection.group) : -1;
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(at, { align: "auto" });
  }, [at, rows]);

  // A pasted column of names goes over the rows from the selected one on.
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      const target = event.target as HTMLElement;
      if (at < 0 || target.closest("input, textarea, [contenteditable]")) return;
      const names = (event.clipboardData?.getData("text/plain") ?? "")
        .split(/\r?\n/)
        .map((name) => name.trim())
        .filter(Boolean);
      if (names.length === 0) return;
      event.preventDefault();
      const over = groups.slice(at, at + names.length).map((group) => group.id);
      act({
        kind: "change",
        changes: [{ kind: "rename", groups: over, names }],
        words: `${names.length} names pasted`,
      });
    };
    window.addEventListener("paste", onPaste);
    return () => window.removeEventListener("paste", onPaste);
  }, [act, at, groups]);

  const move = (event: KeyboardEvent) => {
    const step = MOVES[event.key];
    if (!step) return;
    event.preventDefault();
    const group = groups[Math.min(Math.max(at + step[0], 0), groups.length - 1)];
    if (!group) return;
    const now =
      selection?.reading == null
        ? -1
        : (byId.get(selection.group)?.readings.indexOf(selection.reading) ?? -1);
    const next = Math.min(now + step[1], group.readings.length - 1);
    select({ group: group.id, reading: next < 0 ? null : group.readings[next]! });
  };
  return (
    <div className="flex min-h-[160px] flex-1 flex-col">
      <div className="flex items-center justify-between p-3 pb-2">
        {titled && (
          <span className="flex items-baseline gap-2.5">
            <h2 className="text-lg">Readings</h2>
            <IntakeLink />
          </span>
        )}
        {counted !== null ? (
          <span className="text-sm text-graphite">{counted}</span>
        ) : (
          <Segments
            label="Show"
            value={shown}
            options={[
              { value: "raw", text: "Raw" },
              { value: "corrected", text: "worked" in room.readings ? room.readings.worked : "" },
            ]}
            onChange={setShown}
          />
        )}
      </div>
      <ContextMenu.Root>
        <ContextMenu.Trigger asChild>
          <div
            ref={scroller}
            role="grid"
            tabIndex={0}
            aria-label="Readings by group; arrows move, X excludes, A assigns"
            aria-rowcount={groups.length}
            onKeyDown={move}
            onClick={(event) => select(placeOf(event) ?? selection)}
            onContextMenu={(event) => select(placeOf(event) ?? selection)}
            onPointerOver={(event) => hover(placeOf(event)?.group ?? null)}
            onPointerLeave={() => hover(null)}
            className="min-h-0 flex-1 overflow-auto border-t border-rule text-md -outline-offset-2"
          >
            <div style={{ height: rows.getTotalSize() }} className="relative">
              {rows.getVirtualItems().map((item) => {
                const group = groups[item.index]!;
                return (
                  <GroupRow
                    key={group.id}
                    group={group}
                    top={item.start}
                    shown={shown}
                    cells={cells}
                    cell={counted !== null ? COUNT : view.readings.axis && shown === "raw" ? COURSE : CELL}
                    unit={level.unit ?? ""}
                    readings={readings}
                    outcomes={outcomes}
                    excluded={excluded}
                    selected={selection?.group === group.id}
                    selectedReading={selection?.group === group.id ? selection.reading : null}
                  />
                );
              })}
            </div>
          </div>
        </ContextMenu.Trigger>
        <ReadingMenu />
      </ContextMenu.Root>
    </div>
  );
}

const ITEM =
  "rounded-md px-3 py-1 outline-none data-[highlighted]:bg-permanganate-tint flex justify-between gap-6";

function ReadingMenu() {
  const { groups, excluded, exclude, assign } = useOpenRun();
  const { selection } = useSelection();
  const toggle = (reading: number | null) => exclude(readingsOf(groups, selection?.group ?? "", reading));
  const group = selection && groups.get(selection.group);
  if (!selection || !group) return null;
  const out = selection.reading !== null && excluded.has(selection.reading);
  return (
    <ContextMenu.Portal>
      <ContextMenu.Content className="z-50 min-w-[190px] rounded-md border border-rule bg-chalk p-1 shadow-lg">
        {selection.reading !== null && (
          <ContextMenu.Item className={ITEM} onSelect={() => toggle(selection.reading)}>
            {out ? "Include again" : "Exclude…"} <kbd className="text-graphite">X</kbd>
          </ContextMenu.Item>
        )}
        <ContextMenu.Item className={ITEM} onSelect={() => toggle(null)}>
          {group.readings.every((each) => excluded.has(each))
            ? "Include all again"
            : "Exclude all its readings…"}
        </ContextMenu.Item>
        <ContextMenu.Item className={ITEM} onSelect={() => assign(group.id)}>
          Assign… <kbd className="text-graphite">A</kbd>
        </ContextMenu.Item>
      </ContextMenu.Content>
    </ContextMenu.Portal>
  );
}
