/* What is asked before something is done: the reason for an exclusion, and what a group is. */

import { type FormEvent, useEffect, useState } from "react";
import { rolesOf } from "../api/declared";
import type { Role } from "../api/schema";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Pick, Segments } from "../ui/Choice";
import { typed } from "../ui/Field";
import { isEdge, placeOf } from "./plate/geometry";
import { LevelField, type LevelInput } from "./plate/LevelField";
import { useOpenRun } from "./state/open";
import type { Change } from "./state/useActions";
import type { Excluding } from "./state/useExcluding";

const REASONS = ["Outlying replicate", "Pipetting slip", "Bubble or speck", "Wrong sample"];
const EDGE = "Edge well";
const NOTHING = "nothing";
const NO_LEVEL: LevelInput = { typed: "", recipe: null };
const FIELD = "rounded-md border border-rule bg-paper px-2.5 py-1.5";

export function ExcludeDialog({ excluding, onClose }: { excluding: Excluding | null; onClose: () => void }) {
  const { view, readings, excluded, act } = useOpenRun();
  const [reason, setReason] = useState(REASONS[0]!);
  const chosen = excluding?.readings ?? [];
  const at = excluding?.at ?? null;
  const group = view.revision.layout.groups.find((each) => each.readings.includes(chosen[0]!));
  const places = view.readings.plates ?? [];
  const onEdge =
    chosen.length > 1 &&
    chosen.every((id) => {
      const reading = readings.get(id);
      const plate = reading?.plate == null ? undefined : places[reading.plate];
      return reading && plate && isEdge(reading, plate);
    });
  // What was selected as the edge is most likely left out as such.
  useEffect(() => {
    if (excluding !== null) setReason(onEdge ? EDGE : REASONS[0]!);
  }, [excluding, onEdge]);
  const what = !group
    ? ""
    : at !== null
      ? `${group.name}, point ${at + 1}`
      : chosen.length === 1
        ? `${group.name}, reading ${group.readings.indexOf(chosen[0]!) + 1}${placeOf(readings.get(chosen[0]!), places)} (${readings.get(chosen[0]!)?.text || "missing"})`
        : chosen.every((id) => group.readings.includes(id)) && chosen.length === group.readings.length
          ? `${group.name}, all ${chosen.length} readings`
          : `${chosen.length} readings`;
  const submit = (event?: FormEvent) => {
    event?.preventDefault();
    const said = reason.trim();
    if (!said || !group) return;
    const fresh = chosen.filter((id) => !excluded.has(id));
    act({
      kind: "change",
      changes: [
        at === null
          ? { kind: "exclude", readings: fresh, reason: said }
          : { kind: "exclude_points", points: [{ reading: chosen[0]!, at }], reason: said },
      ],
      words: `Exclude ${what}: ${said}`,
    });
    onClose();
  };
  return (
    <Ask
      title={`Exclude ${what}`}
      detail="It stays in the run, drawn hollow, with your reason. You can include it again at any time."
      open={excluding !== null}
      onClose={onClose}
    >
      <form onSubmit={submit} className="flex flex-col gap-3">
        <label className="flex flex-col gap-1">
          <span className="text-graphite">Reason</span>
          <input
            value={reason}
            maxLength={500}
            onChange={(event) => setReason(event.target.value)}
            onFocus={(event) => event.target.select()}
            className={FIELD}
          />
        </label>
        <div className="flex flex-wrap gap-1.5">
          {(onEdge ? [EDGE, ...REASONS] : REASONS).map((each) => (
            <Button key={each} className="text-sm" onClick={() => setReason(each)}>
              {each}
            </Button>
          ))}
        </div>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!reason.trim()}>
            Exclude
          </Button>
        </div>
      </form>
    </Ask>
  );
}

export function AssignDialog({ group: id, onClose }: { group: string | null; onClose: () => void }) {
  const { groups, view, act } = useOpenRun();
  const group = id === null ? undefined : groups.get(id);
  const [role, setRole] = useState<Role>("sample");
  const [name, setName] = useState("");
  const [level, setLevel] = useState<LevelInput>(NO_LEVEL);
  const [dilution, setDilution] = useState("1");
  const [spikeOf, setSpikeOf] = useState("");
  const [replicateOf, setReplicateOf] = useState("");
  useEffect(() => {
    if (!group) return;
    setRole(group.role);
    setName(group.name);
    setDilution(String(group.dilution ?? 1));
    setSpikeOf(group.spike_of ?? "");
    setReplicateOf(group.replicate_of ?? "");
  }, [group]);
  const plain = view.revision.layout.groups.filter(
    (each) => each.role === "sample" && !each.spike_of && each.id !== id,
  );
  const unit = view.revision.layout.level.unit;
  const badDilution = !(typed(dilution) > 0 && Number.isFinite(typed(dilution)));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!group || badDilution || !name.trim()) return;
    const change: Change = {
      kind: "assign_wells",
      readings: group.readings,
      // Another role makes another group, which keeps the name that is typed.
      ...(role !== group.role && { role, name: name.trim() }),
      ...(name.trim() !== group.name && { name: name.trim() }),
      ...(level.typed.trim() !== "" && { level: level.typed }),
      ...(level.recipe && { recipe: level.recipe }),
      ...(typed(dilution) !== group.dilution && { dilution: typed(dilution) }),
      ...(spikeOf !== (group.spike_of ?? "") && { spike_of: spikeOf }),
      ...(replicateOf.trim() !== (group.replicate_of ?? "") && { replicate_of: replicateOf.trim() }),
    };
    if (Object.keys(change).length > 2)
      act({ kind: "change", changes: [change], words: `Assign ${group.name}` });
    onClose();
  };
  return (
    <Ask title={`What is ${group?.name ?? ""}?`} open={id !== null} onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <Segments
          label="Role"
          value={role}
          options={rolesOf(view.revision.method.question).map(({ role, title }) => ({
            value: role,
            text: title,
          }))}
          onChange={setRole}
        />
        <label className="flex flex-col gap-1">
          <span className="text-graphite">Name</span>
          <input
            value={name}
            maxLength={200}
            onChange={(event) => setName(event.target.value)}
            className={FIELD}
          />
        </label>
        <div className="flex gap-3">
          <div className="flex-1">
            <LevelField
              key={group?.id}
              label={spikeOf ? "Added" : "Known level"}
              unit={unit}
              placeholder={group?.level == null ? "none" : `${group.level} as it is`}
              onChange={setLevel}
            />
          </div>
          <label className="flex flex-1 flex-col gap-1">
            <span className="text-graphite">Dilution ×</span>
            <input
              value={dilution}
              inputMode="decimal"
              onChange={(event) => setDilution(event.target.value)}
              className={FIELD}
            />
            {badDilution && (
              <span className="text-sm text-cinnabar">A factor above zero, for example 5.</span>
            )}
          </label>
        </div>
        {role === "sample" && plain.length > 0 && (
          <p className="flex items-center gap-2">
            <span className="text-graphite">An amount was added to</span>
            <Pick
              label="An amount was added to"
              value={spikeOf || NOTHING}
              options={[NOTHING, ...plain.map((each) => each.name)].map((value) => ({ value, text: value }))}
              onChange={(of) => setSpikeOf(of === NOTHING ? "" : of)}
            />
          </p>
        )}
        {(role === "sample" || role === "dose") && (
          <label className="flex flex-col gap-1">
            <span className="text-graphite">
              A preparation of{" "}
              <span className="text-sm">(several, each with its wells, are taken together)</span>
            </span>
            <input
              value={replicateOf}
              maxLength={200}
              placeholder="none"
              onChange={(event) => setReplicateOf(event.target.value)}
              className={FIELD}
            />
          </label>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={badDilution || !name.trim()}>
            Assign
          </Button>
        </div>
      </form>
    </Ask>
  );
}
