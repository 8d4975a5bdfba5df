/* The plate in the Readings column: what it shows, its tools, and the form for what is being laid out. */
import { useCallback, useEffect, useMemo, useState } from "react";
import type { Layout, Role } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { ROLES, RoleMark, roleName } from "../../ui/RoleMark";
import { useWorkspace } from "../workspace";
import { edge, spanOf } from "./geometry";
import { LayoutsMenu } from "./LayoutsMenu";
import { LayPanel, type Task } from "./LayPanel";
import { PlateMap, type Shown } from "./PlateMap";

const SHOWN: { value: Shown; text: string }[] = [
  { value: "role", text: "Role and level" },
  { value: "raw", text: "Raw" },
  { value: "corrected", text: "Corrected" },
  { value: "result", text: "Result" },
  { value: "cv", text: "CV" },
  { value: "deviation", text: "Deviation" },
  { value: "outliers", text: "Outliers" },
];
const CONTROLS: Record<string, Role> = { v: "vehicle", f: "full" };
const KEYS: Record<string, Task> = { a: "assign", d: "series", n: "samples" };

interface Props {
  wide: boolean;
  children: React.ReactNode;
}

export function PlatePanel({ wide, children }: Props) {
  const { view, wells: chosen, chooseWells, act, exclude, selection, readings, curve } = useWorkspace();
  const plates = view.readings.plates!;
  const [plate, setPlate] = useState(0);
  const [shown, setShown] = useState<Shown>("raw");
  const [zoom, setZoom] = useState(1);
  const [shaded, setShaded] = useState(view.revision.layout.groups.length === 0);
  const [task, setTask] = useState<Task | null>(null);
  const [trial, setTrial] = useState<Layout | null>(null);
  const { layout, outcome } = view.revision;
  const onPlate = useMemo(
    () => view.readings.readings.filter((reading) => reading.plate === plate),
    [view.readings, plate],
  );
  // What is selected elsewhere, in the list, the figure or the answers, is shown on the plate it stands on.
  const elsewhere =
    selection?.reading ?? view.revision.layout.groups.find((g) => g.id === selection?.group)?.readings[0];
  const itsPlate = elsewhere === undefined ? undefined : readings.get(elsewhere)?.plate;
  useEffect(() => {
    if (itsPlate != null) setPlate(itsPlate);
  }, [itsPlate]);
  // So are the wells of the curve looked at, unless some of them are seen already.
  const series = (outcome.effects ?? []).find((effect) => effect.name === curve.key)?.series;
  const its = layout.groups.filter((group) => series !== undefined && group.series === series);
  const itsPlates = [
    ...new Set(its.flatMap((g) => g.readings.map((id) => readings.get(id)?.plate ?? 0))),
  ].join();
  useEffect(() => {
    if (itsPlates !== "")
      setPlate((now) => (itsPlates.split(",").includes(`${now}`) ? now : Number.parseInt(itsPlates, 10)));
  }, [itsPlates]);
  const selected = useMemo(() => onPlate.filter((well) => chosen.has(well.id)), [onPlate, chosen]);
  const ids = useMemo(() => selected.map((well) => well.id), [selected]);
  const span = spanOf(selected);
  const { question } = view.revision.method;
  const doses = question === "dose";
  const counted = question === "mortality";
  const assignRole = useCallback(
    (role: Role) =>
      act({
        kind: "change",
        changes: [{ kind: "assign_wells", readings: ids, role }],
        words: `${span}: ${roleName(role, question).toLowerCase()}`,
      }),
    [act, ids, span, question],
  );
  const clear = useCallback(() => {
    act({
      kind: "change",
      changes: [{ kind: "clear_wells", readings: ids }],
      words: `${span}: role taken off`,
    });
  }, [act, ids, span]);
  const close = useCallback(() => setTask(null), []);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest("input, textarea, select, [role=dialog], [role=listbox], [role=menu]")) return;
      const key = event.key.toLowerCase();
      if (key === "e") chooseWells(edge(onPlate, plates[plate]!));
      else if (ids.length === 0) return;
      else if (key in KEYS && !((doses || counted) && key === "n")) setTask(KEYS[key]!);
      else if (key === "b" && !counted) assignRole("blank");
      else if (doses && key in CONTROLS) assignRole(CONTROLS[key]!);
      else if (counted && key === "v") assignRole("vehicle");
      else if (key === "delete" || key === "backspace") clear();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [assignRole, chooseWells, clear, counted, doses, ids, onPlate, plate, plates]);

  const even = outcome.checks.find((check) => check.id === "even");
  const count = layout.groups.reduce((sum, group) => sum + group.readings.length, 0);
  const tools = (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
      <Tool text="Assign" hint="A" disabled={!ids.length} onClick={() => setTask("assign")} />
      <Tool text="Dilution series" hint="D" disabled={!ids.length} onClick={() => setTask("series")} />
      {doses ? (
        <>
          <Tool text="Vehicle" hint="V" disabled={!ids.length} onClick={() => assignRole("vehicle")} />
          <Tool text="Full effect" hint="F" disabled={!ids.length} onClick={() => assignRole("full")} />
        </>
      ) : counted ? (
        <Tool text="Control" hint="V" disabled={!ids.length} onClick={() => assignRole("vehicle")} />
      ) : (
        <Tool text="Number samples" hint="N" disabled={!ids.length} onClick={() => setTask("samples")} />
      )}
      {!counted && <Tool text="Blank" hint="B" disabled={!ids.length} onClick={() => assignRole("blank")} />}
      <Tool text="Exclude" hint="X" disabled={!ids.length} onClick={() => exclude(ids)} />
      <Tool text="Clear" hint="Del" disabled={!ids.length} onClick={clear} />
      <Tool text="Edge wells" hint="E" onClick={() => chooseWells(edge(onPlate, plates[plate]!))} />
      <LayoutsMenu plate={plate} />
    </div>
  );
  const map = (
    <div className={`flex min-w-0 flex-col gap-2 ${wide ? "min-h-0 flex-1" : "max-h-[62%] shrink-0"}`}>
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
          Wells show <Pick label="Wells show" value={shown} options={SHOWN} onChange={setShown} />
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
    <Guide question={question ?? ""} />
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
      <div className="min-h-[120px] flex-1 overflow-y-auto rounded-lg border border-rule bg-chalk p-3">
        {side}
      </div>
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
  const { view } = useWorkspace();
  const groups = view.revision.layout.groups;
  return (
    <ul className="flex flex-wrap gap-x-3 text-sm" aria-label="What the wells are">
      {ROLES.map((role) => {
        const own = groups.filter((group) => group.role === role);
        if (own.length === 0) return null;
        const wells = own.reduce((sum, group) => sum + group.readings.length, 0);
        const each = own.every((group) => group.readings.length * own.length === wells);
        return (
          <li key={role} className="flex items-center gap-1 whitespace-nowrap">
            <RoleMark role={role} size={10} /> {roleName(role, view.revision.method.question)}{" "}
            <span className="text-graphite">
              {each && own.length > 1 ? `${own.length} × ${wells / own.length}` : wells}
            </span>
          </li>
        );
      })}
    </ul>
  );
}

function Guide({ question }: { question: string }) {
  return (
    <div className="flex flex-col gap-2">
      <h3 className="text-base">Lay the plate out</h3>
      <p className="text-graphite">
        {question === "mortality" ? (
          <>
            Drag over the doses of a treatment and press <b>D</b> for its dilution series. Select the
            controls, which had no dose, and press <b>V</b>.
          </>
        ) : question === "dose" ? (
          <>
            Drag over the doses of a compound and press <b>D</b> for its dilution series. Select the vehicle
            wells and press <b>V</b>, those with full effect and press <b>F</b>, the blanks and press <b>B</b>
            .
          </>
        ) : (
          <>
            Drag over the wells of your standards and press <b>D</b> for a dilution series. Drag over the
            samples and press <b>N</b> to number them. Select the blanks and press <b>B</b>.
          </>
        )}
      </p>
      <p className="text-graphite">
        Rows and columns are selected by their headings; Shift extends, Ctrl adds. Arrow keys move, Shift with
        arrows selects. A layout saved before is under <b>Layouts…</b>
      </p>
    </div>
  );
}
