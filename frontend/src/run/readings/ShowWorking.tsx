/* Show working: the full calculation behind the selected group's numbers. */

import { toast } from "sonner";
import { useWorking } from "../../api/hooks";
import type { WorkingLine } from "../../api/schema";
import { Button } from "../../ui/Button";
import { CopyLink } from "../../ui/CopyLink";
import { RoleMark } from "../../ui/RoleMark";
import { placeOf } from "../plate/geometry";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { Decides } from "./Decides";
import { shownLevel } from "./levels";
import { NoteLine } from "./NoteLine";
import { WhatNext } from "./WhatNext";

const FRAME = "m-3 h-[44%] shrink-0 rounded-lg border border-rule bg-chalk";

/** `bare`: inside a frame that is already there. */
export function ShowWorking({ bare = false }: { bare?: boolean }) {
  const { view, groups, readings, excluded, assign, exclude } = useOpenRun();
  const { selection, number } = useSelection();
  const group = number === null && selection ? groups.get(selection.group) : undefined;
  const working = useWorking(view.run.id, view.revision.number, number?.id ?? group?.id ?? null);
  const frame = bare ? "" : `${FRAME} overflow-y-auto p-3`;
  if (number) {
    return (
      <div role="region" aria-label="Show working" className={frame}>
        <div className="flex items-center gap-2 border-b border-rule pb-2">
          <h3 className="min-w-0 flex-1 truncate font-sans">{number.title}</h3>
          <CopyButton name={number.title} lines={working.data} />
        </div>
        <Lines working={working} />
        {number.answer !== undefined && <Beyond key={number.answer} answer={number.answer} />}
      </div>
    );
  }
  if (!group || !selection) {
    return (
      <p className={bare ? "text-graphite" : "border-t border-rule px-3 py-2 text-sm text-graphite"}>
        Select a reading, a point or an answer to see the working behind it.
      </p>
    );
  }
  const ids = selection.reading === null ? group.readings : [selection.reading];
  const unit = view.revision.layout.level.unit ?? "";
  const place =
    selection.reading === null ? "" : placeOf(readings.get(selection.reading), view.readings.plates ?? []);
  const level = group.level == null ? "" : `${shownLevel(group.level)} ${unit}`.trim();
  const where = [place.replace(/^, /, ""), level].filter(Boolean).join(" · ");
  const out = ids.every((id) => excluded.has(id));
  const answer = view.revision.outcome.answers.rows?.find(
    (row) =>
      row.series == null &&
      row.group === group.id &&
      (row.reading == null || row.reading === selection.reading),
  );
  return (
    <div role="region" aria-label="Show working" className={frame}>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-rule pb-2">
        <RoleMark role={group.role} />
        <h3 className="min-w-0 flex-auto truncate font-sans" title={`${group.name}${where && `, ${where}`}`}>
          {group.name}
          {where && <span className="ml-1.5 font-normal text-graphite text-sm">{where}</span>}
        </h3>
        <div className="ml-auto flex items-center gap-2">
          <CopyButton name={group.name} lines={working.data} />
          <Button look="text" className="text-sm" onClick={() => exclude(ids, selection.at)}>
            {selection.at == null ? (out ? "Include" : "Exclude…") : "The point: exclude or include"}{" "}
            <kbd className="rounded border border-rule px-1 text-xs">X</kbd>
          </Button>
          <CopyLink address={`/runs/${view.run.id}?answer=${encodeURIComponent(group.name)}`} />
          <Button look="text" className="text-sm" onClick={() => assign(group.id)}>
            Assign… <kbd className="rounded border border-rule px-1 text-xs">A</kbd>
          </Button>
        </div>
      </div>
      <NoteLine
        key={`${group.id} ${selection.reading}`}
        place={selection.reading === null ? group.id : `reading:${selection.reading}`}
        name={selection.reading === null ? group.name : "this reading"}
      />
      <Lines working={working} />
      {answer && <Beyond key={answer.key} answer={answer.key} />}
    </div>
  );
}

/** What goes beyond an answer's working: what decides it, and what to read next. */
function Beyond({ answer }: { answer: string }) {
  return (
    <>
      <Decides answer={answer} />
      <WhatNext answer={answer} />
    </>
  );
}

function CopyButton({ name, lines }: { name: string; lines: readonly WorkingLine[] | undefined }) {
  return (
    <Button
      look="text"
      className="text-sm"
      disabled={!lines}
      onClick={async () => {
        await navigator.clipboard.writeText(asText(name, lines!));
        toast.success("Working copied.");
      }}
    >
      Copy
    </Button>
  );
}

function Lines({ working }: { working: ReturnType<typeof useWorking> }) {
  if (!working.data)
    return (
      <p className="py-2 text-graphite">
        {working.isError ? "The working could not be fetched." : "Loading …"}
      </p>
    );
  return (
    <table className="w-full text-md">
      <tbody>
        {working.data.map((line, i) => (
          <tr key={i} className="border-b border-rule/70 align-top last:border-0">
            <th scope="row" className="w-[92px] py-1.5 pr-2 text-left font-normal text-graphite">
              {line.label}
            </th>
            <td className="py-1.5">
              <Line line={line} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The working as lines of text, for a notebook or a mail. */
function asText(name: string, lines: readonly WorkingLine[]): string {
  const told = lines.map(({ label, cells, text, result }) => {
    const parts = [cells?.join("  "), text, result && (text || cells?.length ? `= ${result}` : result)];
    return `${label}: ${parts.filter(Boolean).join(" ")}`;
  });
  return [name, ...told].join("\n");
}

function Line({ line }: { line: WorkingLine }) {
  const full = line.value == null ? undefined : `In full: ${line.value}`;
  if (line.cells?.length) {
    return (
      <>
        <div className="flex flex-wrap gap-x-2">
          {line.cells.map((cell, i) => (
            <span key={i} className="min-w-[50px]">
              {cell}
            </span>
          ))}
        </div>
        {line.text && <div className="text-sm text-iodine">{line.text}</div>}
      </>
    );
  }
  const first = ["Mean", "Median", "Geometric mean"].includes(line.label);
  return (
    <span title={full}>
      {first ? (
        <>
          <b>{line.result}</b> {line.text}
        </>
      ) : (
        <>
          {line.text}
          {line.text && line.result && <> = </>}
          <b className={line.step === "dilution" ? "text-permanganate" : ""}>{line.result}</b>
        </>
      )}
    </span>
  );
}
