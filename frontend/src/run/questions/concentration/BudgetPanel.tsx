/* What beside the readings makes answers uncertain: sources typed one by one, and bars of what each contributes. */
import { Button } from "../../../ui/Button";
import { Pick } from "../../../ui/Choice";
import { useOpenRun } from "../../state/open";
import { useSelection } from "../../state/selection";
import { DraftField, NumberField, ON_OFF, PickRow, Row, useStep } from "../../working/fields";

const GIVEN = [
  { value: "standard", text: "standard (k = 1)" },
  { value: "expanded", text: "expanded (k = 2)" },
  { value: "rectangular", text: "± tolerance, any value" },
  { value: "triangular", text: "± tolerance, middle likelier" },
] as const;

type Of = "answer" | "levels" | `level ${number}`;

/** What a source can be of: answers, all standards, or those of one level. */
function useOf(): { value: Of; text: string }[] {
  const { groups, level } = useOpenRun().view.revision.layout;
  const levels = groups.flatMap((group) => (group.role === "standard" && group.level ? [group.level] : []));
  return [
    { value: "answer", text: "of every answer" },
    { value: "levels", text: "of each standard by itself" },
    ...[...new Set(levels)]
      .sort((a, b) => a - b)
      .map((at) => ({
        value: `level ${at}` as Of,
        text: `of the standard ${at} ${level?.unit ?? ""} alone`,
      })),
  ];
}

const NEXT = ["Purity of the stock", "Weighing", "Volumetric flask", "Sample volume", "Dilution", "Recovery"];

/** The level of "level 2"; none of all of them. */
const levelOf = (of: Of) => (of === "levels" ? null : Number(of.slice("level ".length)));

export function BudgetPanel() {
  const every = useOf();
  const { step, set } = useStep("budget");
  const sources = step.sources ?? [];
  type Sources = typeof sources;
  const put = (next: (now: Sources) => Sources, words: string) =>
    set((now) => ({ sources: next(now.sources ?? []), on: true }), `Uncertainty: ${words}`);
  const change = (at: number, part: Partial<Sources[number]>) =>
    put(
      (now) => now.map((each, i) => (i === at ? { ...each, ...part } : each)),
      part.name ?? sources[at]!.name,
    );
  const free =
    NEXT.find((name) => !sources.some((each) => each.name === name)) ?? `Source ${sources.length + 1}`;
  return (
    <>
      <PickRow
        says="The budget is"
        label="Uncertainty budget"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ on: on === "on" }, `Uncertainty: ${on}`)}
      />
      {sources.map((source, at) => (
        <div
          key={`${at} ${sources.length}`}
          className="mt-1 rounded-md border border-rule bg-chalk px-2 py-1"
        >
          <div className="flex flex-wrap items-center gap-1">
            <DraftField
              key={source.name}
              label={`Source ${at + 1}`}
              given={source.name}
              read={(text) => (text.trim() && text.trim().length <= 60 ? text.trim() : null)}
              need="Type a name of up to 60 characters."
              onCommit={(name) => name !== source.name && change(at, { name })}
              className="w-[112px]"
            />
            <NumberField
              key={`size ${source.percent}`}
              label={`Size of source ${at + 1} in percent`}
              value={source.percent}
              fits={(value) => value > 0 && value <= 1000}
              need="Type a percentage above 0, or how it comes about, such as 100*0.1/50."
              onCommit={(percent) => change(at, { percent })}
              className="w-[48px]"
            />
            %
            <Button
              look="text"
              aria-label={`Remove ${source.name}`}
              className="ml-auto"
              onClick={() => put((now) => now.filter((_, i) => i !== at), `without ${source.name}`)}
            >
              ×
            </Button>
          </div>
          <div className="flex flex-wrap gap-x-2">
            <Pick
              label={`Source ${at + 1} is given as`}
              value={source.given_as ?? "standard"}
              options={GIVEN}
              onChange={(given_as) => change(at, { given_as })}
            />
            <Pick
              label={`Source ${at + 1} is`}
              value={
                source.of === "levels" && source.level != null
                  ? `level ${source.level}`
                  : (source.of ?? "answer")
              }
              options={every}
              onChange={(of) =>
                change(at, of === "answer" ? { of, level: null } : { of: "levels", level: levelOf(of) })
              }
            />
          </div>
        </div>
      ))}
      <Row label="">
        <Button
          look="text"
          onClick={() =>
            put(
              (now) => [...now, { name: free, percent: 1, given_as: "standard", of: "answer" }],
              `with ${free}`,
            )
          }
        >
          Add a source
        </Button>
      </Row>
      <PickRow
        says="Expanded by"
        label="Coverage"
        value={step.coverage ?? "2"}
        options={[
          { value: "2", text: "k = 2" },
          { value: "t", text: "t of 95 %" },
        ]}
        onChange={(coverage) => set({ coverage }, `Uncertainty: coverage ${coverage}`)}
      />
      <Bars />
    </>
  );
}

/** Shares of the variance of the answer that is selected, or of the first. */
function Bars() {
  const { further } = useOpenRun().view.revision.outcome;
  const { selection } = useSelection();
  const table = further?.find((each) => each.title?.startsWith("Uncertainty budget"));
  const rows = table?.rows ?? [];
  const at = Math.max(
    rows.findIndex((row) => row.group === selection?.group),
    0,
  );
  if (!table || !rows[at]) return null;
  return (
    <figure className="mt-1 border-t border-rule pt-1">
      <figcaption className="text-sm text-graphite">Variance of {rows[at].name}</figcaption>
      {(table.columns ?? []).map((column) => (
        <div key={column.id} className="grid grid-cols-[1fr_80px_34px] items-center gap-1.5 text-sm">
          <span className="truncate" title={column.name}>
            {column.name}
          </span>
          <span className="h-2 rounded-sm bg-rule/60">
            <span
              className="block h-2 rounded-sm bg-permanganate"
              style={{ width: `${Math.max(column.values?.[at] ?? 0, 0)}%` }}
            />
          </span>
          <span className="text-right">{column.texts[at]} %</span>
        </div>
      ))}
    </figure>
  );
}
