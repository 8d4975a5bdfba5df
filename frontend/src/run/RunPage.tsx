/* A run's Work view: readings, working, curve over answers, under the verdict. */
import { Redo2, Undo2 } from "lucide-react";
import { useCallback, useEffect, useMemo, useState } from "react";
import { useParams } from "react-router";
import { useRun } from "../api/hooks";
import type { RunView } from "../api/schema";
import { Button } from "../ui/Button";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { AnswersTable } from "./answers/AnswersTable";
import { CurveFigure } from "./curve/CurveFigure";
import { AssignDialog, ExcludeDialog } from "./dialogs";
import { ReadingsList } from "./readings/ReadingsList";
import { ShowWorking } from "./readings/ShowWorking";
import { StaleDialog, WaitingBar } from "./saving";
import { useActions } from "./useActions";
import { VerdictLine } from "./VerdictLine";
import { StepList } from "./working/StepList";
import { type Selection, type Workspace, WorkspaceContext } from "./workspace";

export function RunPage() {
  const id = Number(useParams().run);
  const run = useRun(id);
  if (run.data) return <Work key={id} view={run.data} />;
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[]} />
      <Pending failure={run.error ?? run.failureReason} onRetry={run.refetch} />
    </div>
  );
}

function Work({ view }: { view: RunView }) {
  const { run, revision } = view;
  const { act, waiting, stale, settle } = useActions(run.id);
  const [selection, select] = useState<Selection | null>(null);
  const [hovered, hover] = useState<string | null>(null);
  const [excluding, setExcluding] = useState<Selection | null>(null);
  const [assigning, assign] = useState<string | null>(null);

  const groups = useMemo(() => new Map(revision.layout.groups.map((g) => [g.id, g])), [revision.layout]);
  const readings = useMemo(() => new Map(view.readings.readings.map((r) => [r.id, r])), [view.readings]);
  const outcomes = useMemo(
    () => new Map(revision.outcome.readings.map((r) => [r.id, r])),
    [revision.outcome],
  );
  const excluded = useMemo(
    () => new Map((revision.layout.exclusions ?? []).map((e) => [e.reading, e.reason])),
    [revision.layout],
  );

  const toggleExcluded = useCallback(
    (chosen: Selection) => {
      const ids = chosen.reading === null ? groups.get(chosen.group)!.readings : [chosen.reading];
      if (ids.every((id) => excluded.has(id))) {
        const words = `Include ${groups.get(chosen.group)!.name} again`;
        act({ kind: "change", changes: [{ kind: "include", readings: ids }], words });
      } else {
        setExcluding(chosen);
      }
    },
    [act, excluded, groups],
  );

  const undo = useCallback(() => act({ kind: "undo" }), [act]);
  const redo = useCallback(() => act({ kind: "redo" }), [act]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, textarea, [role=dialog], [role=listbox], [role=menu]")) return;
      if (event.ctrlKey || event.metaKey) {
        const key = event.key.toLowerCase();
        if (key === "z" && !event.shiftKey) undo();
        else if (key === "y" || (key === "z" && event.shiftKey)) redo();
        else return;
        event.preventDefault();
        return;
      }
      if (event.altKey || !selection) return;
      if (event.key.toLowerCase() === "x") toggleExcluded(selection);
      else if (event.key.toLowerCase() === "a") assign(selection.group);
      else if (event.key === "Escape") select(null);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [selection, toggleExcluded, undo, redo]);

  const workspace: Workspace = {
    view,
    groups,
    readings,
    outcomes,
    excluded,
    selection,
    select,
    hovered,
    hover,
    act,
    toggleExcluded,
    assign,
  };
  return (
    <WorkspaceContext value={workspace}>
      <div className="flex h-full min-w-[1100px] flex-col">
        <TopBar trail={[{ text: run.study_name, to: `/studies/${run.study_id}` }, { text: run.title }]}>
          <Button
            look="icon"
            aria-label="Undo"
            title="Undo (Ctrl Z)"
            disabled={revision.undo_to == null}
            onClick={undo}
          >
            <Undo2 size={18} />
          </Button>
          <Button
            look="icon"
            aria-label="Redo"
            title="Redo (Ctrl Y)"
            disabled={revision.redo_to == null}
            onClick={redo}
          >
            <Redo2 size={18} />
          </Button>
          <span
            className="rounded-full border border-dashed border-graphite px-2.5 py-0.5 text-sm text-graphite"
            title={`${revision.words} — ${revision.author}, ${new Date(revision.created_at).toLocaleString("en-GB")}`}
          >
            Draft {revision.number}
          </span>
        </TopBar>
        {waiting ? <WaitingBar problem={waiting} /> : <VerdictLine />}
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(316px,25.5%)_minmax(266px,22.5%)_1fr]">
          <section aria-label="Readings" className="flex min-h-0 flex-col border-r border-rule">
            <ReadingsList />
            <ShowWorking />
          </section>
          <section aria-label="Working" className="min-h-0 overflow-y-auto border-r border-rule p-3">
            <StepList />
          </section>
          <div className="flex min-h-0 min-w-0 flex-col">
            <section aria-label="Curve" className="flex min-h-[250px] flex-[1.25] flex-col bg-chalk p-3">
              <CurveFigure />
            </section>
            <section
              aria-label="Answers"
              className="flex min-h-[180px] flex-1 flex-col border-t border-rule p-3"
            >
              <AnswersTable />
            </section>
          </div>
        </div>
        <ExcludeDialog selection={excluding} onClose={() => setExcluding(null)} />
        <AssignDialog group={assigning} onClose={() => assign(null)} />
        <StaleDialog stale={stale} onSettle={settle} />
      </div>
    </WorkspaceContext>
  );
}
