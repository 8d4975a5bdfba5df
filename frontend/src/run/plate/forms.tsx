/* The three ways of saying what the selected wells are: by hand, as a dilution series, as numbered samples. */

import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useLayoutEffect, useState } from "react";
import { rolesOf } from "../../api/declared";
import type { Reading, Role } from "../../api/schema";
import { Segments } from "../../ui/Choice";
import { Field, typed } from "../../ui/Field";
import { useOpenRun } from "../state/open";
import type { Change } from "../state/useActions";
import { workedOut } from "../working/fields";
import { LevelField, type LevelInput } from "./LevelField";

interface Props {
  wells: readonly Reading[];
  unit: string;
  /** The change as it stands; null while something is missing. */
  onChange: (change: Change | null) => void;
}

type Direction = "down" | "across";
const DIRECTIONS = [
  { value: "down", text: "Down" },
  { value: "across", text: "Across" },
] as const;
const NOTHING: LevelInput = { typed: "", recipe: null };

function useTold(change: Change | null, tell: (change: Change | null) => void) {
  const told = JSON.stringify(change);
  // Told before the next key: who types a number and Enter at once means that number.
  // biome-ignore lint/correctness/useExhaustiveDependencies: `told` stands for the change
  useLayoutEffect(() => tell(change), [told]);
}

/** A number typed plainly or as it comes about (10^0.5); null while it is being worked out. */
function useWorkedOut(text: string): number | null {
  const plain = typed(text);
  const sum = useQuery({
    queryKey: ["number", text],
    enabled: text.trim() !== "" && !Number.isFinite(plain),
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => workedOut(text),
  });
  if (Number.isFinite(plain) || text.trim() === "") return plain;
  return sum.data ?? null;
}

function count(values: readonly number[]): number {
  return new Set(values).size;
}

/** Which way a selection is most likely meant: along its longer side, replicates beside each other. */
function guess(wells: readonly Reading[]): { direction: Direction; beside: number } {
  const rows = count(wells.map((w) => w.row));
  const columns = count(wells.map((w) => w.column));
  return columns > rows && rows <= 4
    ? { direction: "across", beside: rows }
    : { direction: "down", beside: columns };
}

interface Arranged {
  /** How the wells are cut into groups, as a change says it; null while the number of replicates is none. */
  told: { direction: Direction; replicates: number; beside: boolean } | null;
  /** The segments for the direction, with whatever stands beside them, over the replicates. */
  fields: (more: ReactNode) => ReactNode;
}

/** In which direction one group follows the other, and how its replicates lie. */
function useArrangement(first: Direction, most: string): Arranged {
  const [direction, setDirection] = useState<Direction>(first);
  const [replicates, setReplicates] = useState(most);
  const [beside, setBeside] = useState(true);
  const down = direction === "down";
  return {
    told: typed(replicates) >= 1 ? { direction, replicates: Math.round(typed(replicates)), beside } : null,
    fields: (more) => (
      <>
        <div className="flex flex-wrap items-center gap-2">
          <Segments label="Direction" value={direction} options={DIRECTIONS} onChange={setDirection} />
          {more}
        </div>
        <div className="flex items-end gap-2">
          <Field
            label="Replicates"
            value={replicates}
            inputMode="numeric"
            className="w-[72px]"
            onChange={setReplicates}
          />
          <Segments
            label="Replicates lie"
            value={beside ? "beside" : "along"}
            options={[
              { value: "beside", text: down ? "side by side" : "one below the other" },
              { value: "along", text: down ? "one below the other" : "side by side" },
            ]}
            onChange={(next) => setBeside(next === "beside")}
          />
        </div>
      </>
    ),
  };
}

export function SeriesForm({ wells, unit, onChange }: Props) {
  const { doses } = useOpenRun().room.plate;
  const first = guess(wells);
  const [level, setLevel] = useState<LevelInput>(NOTHING);
  const [factor, setFactor] = useState("2");
  const step = useWorkedOut(factor);
  const arranged = useArrangement(first.direction, String(first.beside));
  const [zero, setZero] = useState(false);
  const [order, setOrder] = useState<"falling" | "rising">("falling");
  const [name, setName] = useState(doses ? "Compound" : "Std");
  const ready = (level.typed.trim() !== "" || level.recipe) && step !== null && step > 1 && wells.length > 0;
  useTold(
    ready && arranged.told
      ? {
          kind: "fill_series",
          readings: wells.map((w) => w.id),
          top: level.typed,
          recipe: level.recipe,
          factor: step!,
          ...arranged.told,
          zero_at_end: zero,
          rising: order === "rising",
          role: doses ? "dose" : "standard",
          name,
          series: doses ? name : "",
        }
      : null,
    onChange,
  );
  return (
    <>
      <LevelField label="Top" unit={unit} autoFocus onChange={setLevel} />
      <div className="flex gap-2">
        <Field
          label="Each step ÷"
          value={factor}
          inputMode="decimal"
          className="w-[72px]"
          problem={step === null || step > 1 ? undefined : "above 1"}
          onChange={setFactor}
        />
        <Field label={doses ? "Series" : "Named"} value={name} className="flex-1" onChange={setName} />
      </div>
      {arranged.fields(
        <Segments
          label="Order"
          value={order}
          options={[
            { value: "falling", text: "top first" },
            { value: "rising", text: "top last" },
          ]}
          onChange={setOrder}
        />,
      )}
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={zero} onChange={(event) => setZero(event.target.checked)} />
        Zero at the end of the series
      </label>
    </>
  );
}

export function SamplesForm({ wells, onChange }: Props) {
  const columns = count(wells.map((w) => w.column));
  const [first, setFirst] = useState("S1");
  const [list, setList] = useState("");
  const names = list
    .split(/[\n\t;]+|,\s+/)
    .map((name) => name.trim())
    .filter(Boolean);
  const arranged = useArrangement("down", columns % 3 === 0 ? "3" : columns % 2 === 0 ? "2" : "1");
  const [dilution, setDilution] = useState("1");
  const [role, setRole] = useState<"sample" | "qc">("sample");
  const ready = first.trim() !== "" && typed(dilution) > 0 && wells.length > 0;
  useTold(
    ready && arranged.told
      ? {
          kind: "number_samples",
          readings: wells.map((w) => w.id),
          first: first.trim(),
          names,
          ...arranged.told,
          role,
          dilution: typed(dilution),
        }
      : null,
    onChange,
  );
  return (
    <>
      <div className="flex gap-2">
        <Field
          label="First name, the others numbered after it"
          value={first}
          autoFocus
          onFocus={(event) => event.target.select()}
          className="flex-1"
          onChange={setFirst}
        />
        <Field
          label="Dilution ×"
          value={dilution}
          inputMode="decimal"
          className="w-[80px]"
          problem={typed(dilution) > 0 ? undefined : "above 0"}
          onChange={setDilution}
        />
      </div>
      <label className="flex flex-col gap-0.5 text-sm text-graphite">
        Or a list of names, pasted: one a line
        <textarea
          aria-label="List of names"
          rows={2}
          value={list}
          placeholder={"T-204\nT-207"}
          onChange={(event) => setList(event.target.value)}
          className="rounded-md border border-rule bg-chalk px-2 py-1 text-md text-ink"
        />
        {names.length > 0 && `${names.length} ${names.length === 1 ? "name" : "names"}, in this order`}
      </label>
      {arranged.fields(
        <Segments
          label="These wells are"
          value={role}
          options={[
            { value: "sample", text: "samples" },
            { value: "qc", text: "QCs" },
          ]}
          onChange={setRole}
        />,
      )}
    </>
  );
}

export function AssignForm({ wells, unit, onChange }: Props) {
  const { question } = useOpenRun().view.revision.method;
  const [role, setRole] = useState<Role | "">("");
  const [name, setName] = useState("");
  const [series, setSeries] = useState("");
  const [dilution, setDilution] = useState("");
  const [spikeOf, setSpikeOf] = useState("");
  const [replicateOf, setReplicateOf] = useState("");
  const [level, setLevel] = useState<LevelInput>(NOTHING);
  const given = {
    ...(role && { role }),
    ...(name.trim() && { name: name.trim() }),
    ...(series.trim() && { series: series.trim() }),
    ...(level.typed.trim() && { level: level.typed }),
    ...(level.recipe && { recipe: level.recipe }),
    ...(typed(dilution) > 0 && { dilution: typed(dilution) }),
    ...(spikeOf.trim() && { spike_of: spikeOf.trim() }),
    ...(replicateOf.trim() && { replicate_of: replicateOf.trim() }),
  };
  const ready = wells.length > 0 && Object.keys(given).length > 0;
  useTold(ready ? { kind: "assign_wells", readings: wells.map((w) => w.id), ...given } : null, onChange);
  return (
    <>
      <Segments
        label="Role"
        value={role}
        options={rolesOf(question).map(({ role, title }) => ({ value: role, text: title }))}
        onChange={(next) => setRole(next as Role)}
      />
      <div className="flex gap-2">
        <Field
          label="Name"
          value={name}
          placeholder="as it is"
          className="flex-1"
          autoFocus
          onChange={setName}
        />
        <Field
          label="Series"
          value={series}
          placeholder="as it is"
          className="w-[110px]"
          onChange={setSeries}
        />
      </div>
      <LevelField label="Level" unit={unit} placeholder="as it is" onChange={setLevel} />
      <div className="flex gap-2">
        <Field
          label="Dilution ×"
          value={dilution}
          placeholder="as it is"
          inputMode="decimal"
          className="w-[110px]"
          problem={dilution.trim() === "" || typed(dilution) > 0 ? undefined : "A factor above zero."}
          onChange={setDilution}
        />
        <Field
          label="The level was added to the sample"
          value={spikeOf}
          placeholder="none"
          className="flex-1"
          onChange={setSpikeOf}
        />
      </div>
      <Field
        label="They are a preparation of"
        value={replicateOf}
        placeholder="as it is"
        onChange={setReplicateOf}
      />
      <p className="text-sm text-graphite">
        Wells with the same role, name and level are replicates. What is left empty stays as it is.
      </p>
    </>
  );
}
