/* The plate in the Readings column: what it shows, its tools, and the form for what is being laid out. */

import { useCallback, useLayoutEffect, useMemo, useState } from "react";
import { ROLES, rolesOf, roleTitle } from "../../api/declared";
import type { Layout, Role } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { RoleMark } from "../../ui/RoleMark";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { edge, spanOf } from "./geometry";
import { LayoutsMenu } from "./LayoutsMenu";
import { LayPanel, type Task } from "./LayPanel";
import { PlateMap, type Shown } from "./PlateMap";
import { usePlateInView } from "./usePlateInView";

const SHOWN: { value: Shown; text: string }[] = [
  { value: "role", text: "Role and level" },
  { value: "raw", text: "Raw" },
  { value: "corrected", text: "Corrected" },
  { value: "result", text: "Result" },
  { value: "cv", text: "CV" },
  { value: "deviation", text: "Deviation" },
  { value: "outliers", text: "Outliers" },
];
const TASKS: Record<Task, { text: string; key: string }> = {
  assign: { text: "Assign", key: "a" },
  series: { text: "Dilution series", key: "d" },
  samples: { text: "Number samples", key: "n" },
};

interface Props {
  wide: boolean;
  children: React.ReactNode;
}

export function PlatePanel({ wide, children }: Props) {
  const { view, room, act, exclude } = useOpenRun();
  const { wells: chosen, chooseWells, selection, number } = useSelection();
  const plates = view.readings.plates!;
  const [plate, setPlate] = usePlateInView();
  const [shown, setShown] = useState<Shown>(view.readings.axis ? "corrected" : "raw");
  const [zoom, setZoom] = useState(1);
  const [shaded, setShaded] = useState(view.revision.layout.groups.length === 0);
  const [task, setTask] = useState<Task | null>(null);
  const [trial, setTrial] = useState<Layout | null>(null);
  const { layout, outcome } = view.revision;
  // Of courses what was found of each is shown; how far one reads from another says nothing.
  const shownOf = useMemo<{ value: Shown; text: string }[]>(() => {
    if (outcome.part.kind !== "rate") return SHOWN;
    const found = (outcome.part.quantities ?? []).map((each) => ({
      value: `of:${each.id}` as const,
      text: each.unit ? `${each.name} / ${each.unit}` : each.name,
    }));
    const kept = SHOWN.filter(({ value }) => ["role", "raw", "result", "cv"].includes(value));
    return [{ value: "corrected", text: "Found" }, ...found, ...kept];
  }, [outcome.part]);
  const onPlate = useMemo(
    () => view.readings.readings.filter((reading) => reading.plate === plate),
    [view.readings, plate],
  );
  const selected = useMemo(() => onPlate.filter((well) => chosen.has(well.id)), [onPlate, chosen]);
  const ids = useMemo(() => selected.map((well) => well.id), [selected]);
  const span = spanOf(selected);
  const { question } = view.revision.method;
  // Roles that take no more than a key: those of the question that say all of a well by themselves.
  const byKey = useMemo(() => rolesOf(question).filter(({ role }) => ROLES[role].key), [question]);
  const assignRole = useCallback(
    (role: Role) =>
      act({
        kind: "change",
        changes: [{ kind: "assign_wells", readings: ids, role }],
        words: `${span}: ${roleTitle(role, question).toLowerCase()}`,
      }),
    [act, ids, span, question],
  );
  const clear = useCallback(() => {
    act({
      kind: "change",
      changes: [{ kind: "clear_wells", readings: ids }],
      words: `${span}: role removed`,
    });
  }, [act, ids, span]);
  const close = useCallback(() => setTask(null), []);

  // Laid on with the selection itself, so that a key pressed right after a drag is of what was dragged over.
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest("input, textarea, select, [role=dialog], [role=listbox], [role=menu]")) return;
      const key = event.key.toLowerCase();
      const its = room.plate.tasks.find((each) => TASKS[each].key === key);
      const role = byKey.find((each) => ROLES[each.role].key === key)?.role;
      if (key === "e") chooseWells(edge(onPlate, plates[plate]!));
      else if (ids.length === 0) return;
      else if (its) setTask(its);
      else if (role) assignRole(role);
      else if (key === "delete" || key === "backspace") clear();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [assignRole, byKey, chooseWells, clear, ids, onPlate, plate, plates, room]);

  const even = outcome.checks.find((check) => check.id === "even");
  const count = layout.groups.reduce((sum, group) => sum + group.readings.length, 0);
  const tools = (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
      {room.plate.tasks.map((each) => (
        <Tool
          key={each}
          text={TASKS[each].text}
          hint={TASKS[each].key.toUpperCase()}
          disabled={!ids.length}
          onClick={() => setTask(each)}
        />
      ))}
      {byKey.map(({ role, title }) => (
        <Tool
          key={role}
          text={title}
          hint={ROLES[role].key.toUpperCase()}
          disabled={!ids.length}
          onClick={() => assignRole(role)}
        />
      ))}
      <Tool text="Exclude" hint="X" disabled={!ids.length} onClick={() => exclude(ids)} />
      <Tool text="Clear" hint="Del" disabled={!ids.length} onClick={clear} />
      <Tool text="Edge wells" hint="E" onClick={() => chooseWells(edge(onPlate, plates[plate]!))} />
      <LayoutsMenu plate={plate} />
    </div>
  );
  // With nothing to say beside it, the plate has the room.
  const idle = !wide && !task && !selection && !number && ids.length === 0 && count > 0;
  const map = (
    <div
      className={`flex min-w-0 flex-col gap-2 ${wide || idle ? "min-h-0 flex-1" : "max-h-[62%] shrink-0"}`}
    >
      <div className="flex items-center gap-3 text-sm">
        {plates.length > 1 && (
          <Pick
            label="Plate"
            value={String(plate)}
            options={plates.map((each, i) => ({ value: String(i), text: each.name || `Plate ${i + 1}` }))}
            onChange={(next) => setPlate(Number(next))}
          />
        )}
        <span className="text-graphite">
          Wells show <Pick label="Wells show" value={shown} options={shownOf} onChange={setShown} />
        </span>
        <label className="flex items-center gap-1.5 text-graphite">
          <input type="checkbox" checked={shaded} onChange={(event) => setShaded(event.target.checked)} />
          shade
        </label>
        <span className="flex-1" />
        <Button look="text" aria-label="Larger wells" onClick={() => setZoom(Math.min(zoom * 1.4, 6))}>
          +
        </Button>
        <Button
          look="text"
          aria-label="Smaller wells"
          disabled={zoom <= 1}
          onClick={() => setZoom(Math.max(zoom / 1.4, 1))}
        >
          −
        </Button>
      </div>
      <PlateMap plate={plate} shown={shown} shaded={shaded} zoom={zoom} trial={trial} />
      <Legend />
      {shown === "deviation" && (
        <p className="text-sm text-graphite">
          How far each well reads from its curve, or from the mean of its group.{" "}
          {even ? `${even.title}: ${even.found}.` : ""}
        </p>
      )}
      {count > 0 &&
        outcome.layout?.map((remark) => (
          <p key={remark.short} className="text-sm text-iodine">
            {remark.text}
          </p>
        ))}
    </div>
  );
  const side = task ? (
    <LayPanel key={task} task={task} wells={selected} onTrial={setTrial} onClose={close} />
  ) : count === 0 && ids.length === 0 ? (
    <Guide />
  ) : (
    children
  );
  return wide ? (
    <div className="flex min-h-0 flex-1 gap-4 p-4 pt-0">
      <div className="flex min-w-0 flex-1 flex-col gap-2">
        {tools}
        {map}
      </div>
      <div className="w-[340px] shrink-0 overflow-y-auto rounded-lg border border-rule bg-chalk p-4">
        {side}
      </div>
    </div>
  ) : (
    <div className="flex min-h-0 flex-1 flex-col gap-2 px-3 pb-3">
      {map}
      {tools}
      {idle ? (
        <div className="border-t border-rule pt-2 text-sm">{side}</div>
      ) : (
        <div className="min-h-[120px] flex-1 overflow-y-auto rounded-lg border border-rule bg-chalk p-3">
          {side}
        </div>
      )}
    </div>
  );
}

function Tool({
  text,
  hint,
  ...rest
}: {
  text: string;
  hint: string;
  disabled?: boolean;
  onClick: () => void;
}) {
  return (
    <Button look="text" className="whitespace-nowrap" title={`${text} (${hint})`} {...rest}>
      {text} <kbd className="rounded border border-rule px-1 text-xs text-graphite">{hint}</kbd>
    </Button>
  );
}

function Legend() {
  const { view } = useOpenRun();
  const groups = view.revision.layout.groups;
  return (
    <ul className="flex flex-wrap gap-x-3 text-sm" aria-label="What the wells are">
      {(Object.keys(ROLES) as Role[]).map((role) => {
        const own = groups.filter((group) => group.role === role);
        if (own.length === 0) return null;
        const wells = own.reduce((sum, group) => sum + group.readings.length, 0);
        const each = own.every((group) => group.readings.length * own.length === wells);
        return (
          <li key={role} className="flex items-center gap-1 whitespace-nowrap">
            <RoleMark role={role} size={10} /> {roleTitle(role, view.revision.method.question)}{" "}
            <span className="text-graphite">
              {each && own.length > 1 ? `${own.length} × ${wells / own.length}` : wells}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

function Guide() {
  const { room } = useOpenRun();
  return (
    <div className="flex flex-col gap-2">
      <h3 className="text-base">Lay the plate out</h3>
      <p className="text-graphite">{room.plate.guide}</p>
      <p className="text-graphite">
        Rows and columns are selected by their headings; Shift extends, Ctrl adds. Arrow keys move, Shift with
        arrows selects. A layout saved before is under <b>Layouts…</b>
      </p>
    </div>
  );
}
