/* The bar over a run: where it belongs, its views, undo and redo, and which revision it is in. */
import { Redo2, Undo2 } from "lucide-react";
import { Link } from "react-router";
import { RunHouse } from "../house/RunHouse";
import { Button } from "../ui/Button";
import { TopBar } from "../ui/TopBar";
import { useOpenRun } from "./state/open";

export type Tab = "work" | "wall" | "figure" | "report" | "review" | "ledger";
const TABS: { value: Tab; text: string }[] = [
  { value: "work", text: "Work" },
  { value: "wall", text: "Wall" },
  { value: "figure", text: "Figure" },
  { value: "report", text: "Report" },
  { value: "review", text: "Review" },
  { value: "ledger", text: "Ledger" },
];

interface Props {
  tab: Tab;
  onTab: (tab: Tab) => void;
  /** Whether there are curves enough for a wall. */
  walled: boolean;
  /** How many remarks are open. */
  remarks: number;
}

export function RunBar({ tab, onTab, walled, remarks }: Props) {
  const { view, act } = useOpenRun();
  const { run, revision } = view;
  return (
    <TopBar trail={[{ text: run.study_name, to: `/studies/${run.study_id}` }, { text: run.title }]}>
      <RunHouse run={run} />
      <div role="tablist" aria-label="Views of the run" className="mr-1 flex">
        {TABS.filter(({ value }) => value !== "wall" || walled).map(({ value, text }) => (
          <button
            key={value}
            type="button"
            role="tab"
            aria-selected={tab === value}
            onClick={() => onTab(value)}
            className={`h-[45px] border-b-3 px-2.5 ${tab === value ? "border-permanganate font-semibold" : "border-transparent text-graphite hover:text-ink"}`}
          >
            {text}
            {value === "review" && remarks > 0 && (
              <span className="text-iodine" title={`${remarks} open`}>
                {` ${remarks}`}
              </span>
            )}
          </button>
        ))}
      </div>
      <Button
        look="icon"
        aria-label="Undo"
        title="Undo (Ctrl Z)"
        disabled={revision.undo_to == null}
        onClick={() => act({ kind: "undo" })}
      >
        <Undo2 size={18} />
      </Button>
      <Button
        look="icon"
        aria-label="Redo"
        title="Redo (Ctrl Y)"
        disabled={revision.redo_to == null}
        onClick={() => act({ kind: "redo" })}
      >
        <Redo2 size={18} />
      </Button>
      {revision.differs && (
        <span
          className="mr-2 rounded-full border border-iodine px-2.5 py-0.5 text-sm text-iodine"
          title={`Dosis ${revision.program ?? "of another version"} saved this revision. Worked out again today, its numbers are not quite the same.`}
        >
          Not as it was saved
        </span>
      )}
      {run.method && (
        <Link
          to={`/methods/${run.method.id}?version=${run.method.version}`}
          className="max-w-[104px] truncate rounded-full border border-dashed border-graphite px-2.5 py-0.5 text-sm text-graphite hover:text-ink"
          title={`Worked by the method “${run.method.name}”, version ${run.method.version}${run.method.newest == null ? "" : `; version ${run.method.newest} is in use now`}`}
        >
          {run.method.name}, v{run.method.version}
        </Link>
      )}
      <span
        className="rounded-full border border-dashed border-graphite px-2.5 py-0.5 text-sm whitespace-nowrap text-graphite"
        title={`${revision.words} — ${revision.author}, ${new Date(revision.created_at).toLocaleString("en-GB")}`}
      >
        Revision {revision.number}
      </span>
    </TopBar>
  );
}
