/* What a person may do: roles in the whole lab, and in single studies. */
import { useState } from "react";
import { useStudies } from "../api/hooks";
import type { LabRole } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Ticks } from "../ui/Ticks";

export const ROLES: readonly { value: LabRole; text: string; means: string }[] = [
  { value: "reader", text: "Reader", means: "sees runs and their reports" },
  { value: "analyst", text: "Analyst", means: "opens, works and hands in runs" },
  { value: "reviewer", text: "Reviewer", means: "remarks on, reviews and signs runs" },
  { value: "administrator", text: "Administrator", means: "invites people, gives rights, checks the Ledger" },
];
const IN_STUDIES = ROLES.filter(({ value }) => value !== "administrator");

export interface RightsOf {
  roles: LabRole[];
  studies: Record<number, LabRole[]>;
}

export function roleText(role: LabRole): string {
  return ROLES.find(({ value }) => value === role)?.text ?? role;
}

export function RightsForm({ rights, onChange }: { rights: RightsOf; onChange: (rights: RightsOf) => void }) {
  const studies = useStudies();
  const [study, setStudy] = useState("");
  const [role, setRole] = useState<LabRole>("analyst");
  const named = (id: number) => studies.data?.find((each) => each.id === id)?.name ?? `Study ${id}`;
  const rows = Object.entries(rights.studies).flatMap(([id, roles]) =>
    roles.map((each) => ({ id: Number(id), role: each })),
  );
  const set = (id: number, roles: LabRole[]) =>
    onChange({ ...rights, studies: { ...rights.studies, [id]: roles } });
  return (
    <>
      <Ticks
        legend="In all studies"
        options={ROLES.map(({ value, text, means }) => ({
          value,
          text: (
            <>
              {text} <span className="text-sm text-graphite">{means}</span>
            </>
          ),
        }))}
        columns={1}
        chosen={rights.roles}
        onChange={(roles) => onChange({ ...rights, roles })}
      />
      <fieldset>
        <legend className="mb-1 text-graphite">In single studies</legend>
        {rows.map(({ id, role }) => (
          <p key={`${id} ${role}`} className="flex items-center gap-2 border-b border-rule py-1">
            <span className="min-w-0 flex-1 truncate">
              {roleText(role)} of {named(id)}
            </span>
            <Button
              look="text"
              aria-label={`Take off: ${roleText(role)} of ${named(id)}`}
              onClick={() =>
                set(
                  id,
                  rights.studies[id]!.filter((each) => each !== role),
                )
              }
            >
              Take off
            </Button>
          </p>
        ))}
        <p className="flex items-center gap-2 py-1">
          <Pick label="Role in a study" value={role} options={IN_STUDIES} onChange={setRole} />
          of
          <Pick
            label="Study"
            value={study}
            options={[
              { value: "", text: "choose a study" },
              ...(studies.data ?? []).map((each) => ({ value: String(each.id), text: each.name })),
            ].filter(({ value }) => value !== "" || study === "")}
            onChange={setStudy}
          />
          <Button
            disabled={!study}
            onClick={() => {
              const id = Number(study);
              set(id, [...new Set([...(rights.studies[id] ?? []), role])]);
              setStudy("");
            }}
          >
            Add
          </Button>
        </p>
      </fieldset>
    </>
  );
}
