/* A run's Work view: readings, working, curve over answers, under the verdict. */
import { Redo2, Undo2 } from "lucide-react";
import { useCallback, useEffect, useMemo, useState } from "react";
import { useParams } from "react-router";
import { toast } from "sonner";
import { useRun, useWholeCurve } from "../api/hooks";
import type { Curve, RunView } from "../api/schema";
import { type Act, useCommands } from "../app/commands";
import { Button } from "../ui/Button";
import { Segments } from "../ui/Choice";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { AnswersTable } from "./answers/AnswersTable";
import { CurveFigure } from "./curve/CurveFigure";
import { AssignDialog, ExcludeDialog } from "./dialogs";
import { EffectsTable } from "./doses/EffectsTable";
import { Wall } from "./doses/Wall";
import { LedgerView } from "./ledger/LedgerView";
import { PlatePanel } from "./plate/PlatePanel";
import { ReadingsList } from "./readings/ReadingsList";
import { ShowWorking } from "./readings/ShowWorking";
import { StaleDialog, WaitingBar } from "./saving";
import { useActions } from "./useActions";
import { VerdictLine } from "./VerdictLine";
import { StepList } from "./working/StepList";
import { useStepCommands } from "./working/useStepCommands";
import { asksDose, type Numbered, type Selection, type Workspace, WorkspaceContext } from "./workspace";

type Tab = "work" | "wall" | "ledger";
const TABS: { value: Tab; text: string }[] = [
  { value: "work", text: "Work" },
  { value: "wall", text: "Wall" },
  { value: "ledger", text: "Ledger" },
];
const FEW = 3; // curves up to which one figure shows them all well enough
const NOTHING: ReadonlySet<number> = new Set();
const SHAPES = [
  { value: "plate", text: "Plate" },
  { value: "list", text: "List" },
] as const;

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
  const [selection, setSelection] = useState<Selection | null>(null);
  const [wells, setWells] = useState<ReadonlySet<number>>(NOTHING);
  const plated = (view.readings.plates ?? []).length > 0;
  const [wide, setWide] = useState(plated && revision.layout.groups.length === 0);
  const [tab, setTab] = useState<Tab>("work");
  const [shape, setShape] = useState<"plate" | "list">(plated ? "plate" : "list");
  const [hovered, hover] = useState<string | null>(null);
  const [number, showNumber] = useState<Numbered | null>(null);
  const [curveKey, chooseCurve] = useState("");
  const [excluding, setExcluding] = useState<readonly number[] | null>(null);
  const [assigning, assign] = useState<string | null>(null);

  const drawn = revision.outcome.curves?.length ? revision.outcome.curves : [revision.outcome.curve];
  const brief = drawn.find((each) => each.key === curveKey) ?? drawn[0]!;
  const curve = useWholeCurve(run.id, revision.number, brief);
  const curves = useMemo(
    () => (curve === brief ? drawn : drawn.map((each) => (each === brief ? curve : each))),
    [curve, brief, drawn],
  );
  const walled = asksDose(view) && curves.length > FEW;
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

  const select = useCallback(
    (next: Selection | null) => {
      const group = next && groups.get(next.group);
      setSelection(next);
      showNumber(null);
      const named = (revision.outcome.effects ?? []).find((each) => each.series === group?.series)?.name;
      const onIt = (each: Curve) =>
        each.brief
          ? each.key === named
          : [...each.points, ...each.samples].some((point) => point.group === next?.group);
      const its = group && (revision.outcome.curves ?? []).find(onIt);
      if (its) chooseCurve(its.key ?? "");
      setWells(!group ? NOTHING : new Set(next.reading === null ? group.readings : [next.reading]));
    },
    [groups, revision.outcome.curves, revision.outcome.effects],
  );
  const chooseWells = useCallback(
    (ids: readonly number[]) => {
      setWells(new Set(ids));
      const first = revision.layout.groups.find((group) => group.readings.includes(ids[0]!));
      const one = first !== undefined && ids.every((id) => first.readings.includes(id));
      setSelection(one ? { group: first.id, reading: ids.length === 1 ? ids[0]! : null } : null);
    },
    [revision.layout],
  );
  const exclude = useCallback(
    (ids: readonly number[]) => {
      const laid = ids.filter((id) => revision.layout.groups.some((group) => group.readings.includes(id)));
      if (laid.length === 0) {
        if (ids.length > 0)
          toast.message(
            ids.length === 1
              ? "This well has no role, so no curve uses it and there is nothing to exclude."
              : `These ${ids.length} wells have no role, so no curve uses them and there is nothing to exclude.`,
          );
        return;
      }
      if (laid.every((id) => excluded.has(id))) {
        const words = `Include ${laid.length === 1 ? "the reading" : `${laid.length} readings`} again`;
        act({ kind: "change", changes: [{ kind: "include", readings: laid }], words });
      } else {
        setExcluding(laid);
      }
    },
    [act, excluded, revision.layout],
  );
  const toggleExcluded = useCallback(
    (chosen: Selection) =>
      exclude(chosen.reading === null ? groups.get(chosen.group)!.readings : [chosen.reading]),
    [exclude, groups],
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
      if (event.altKey || (!selection && wells.size === 0)) return;
      if (event.key.toLowerCase() === "x") exclude([...wells]);
      else if (event.key.toLowerCase() === "a" && shape === "list" && selection) assign(selection.group);
      else if (event.key === "Escape") select(null);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [selection, wells, shape, select, exclude, undo, redo]);

  const address = `/api/runs/${run.id}`;
  const commands = useMemo<Act[]>(
    () => [
      { id: "undo", text: "Undo", keys: "Ctrl Z", disabled: revision.undo_to == null, run: undo },
      { id: "redo", text: "Redo", keys: "Ctrl Y", disabled: revision.redo_to == null, run: redo },
      {
        id: "exclude",
        text: "Exclude or include the selection",
        keys: "X",
        disabled: wells.size === 0,
        run: () => exclude([...wells]),
      },
      { id: "ledger", text: "Show the Ledger", run: () => setTab("ledger") },
      { id: "wall", text: "Show the wall of curves", disabled: !walled, run: () => setTab("wall") },
      { id: "work", text: "Show the Work view", run: () => setTab("work") },
      { id: "plate", text: "Show the plate", disabled: !plated, run: () => setShape("plate") },
      { id: "list", text: "Show the readings as a list", run: () => setShape("list") },
      { id: "lay", text: "Lay the plate out", disabled: !plated, run: () => setWide(true) },
      {
        id: "xlsx",
        text: "Download the run as XLSX",
        run: () => window.location.assign(`${address}/answers.xlsx`),
      },
      {
        id: "csv",
        text: "Download the answers as CSV",
        run: () => window.location.assign(`${address}/answers.csv`),
      },
      {
        id: "source",
        text: "Download what was brought in",
        run: () => window.location.assign(`${address}/source`),
      },
    ],
    [address, exclude, plated, redo, revision, undo, walled, wells],
  );
  useCommands("run", commands);
  useStepCommands({ view, act });
  const workspace: Workspace = {
    view,
    groups,
    readings,
    outcomes,
    excluded,
    selection,
    select,
    wells,
    chooseWells,
    exclude,
    hovered,
    hover,
    act,
    curve,
    curves,
    chooseCurve,
    number,
    showNumber,
    toggleExcluded,
    assign,
  };
  return (
    <WorkspaceContext value={workspace}>
      <div className="flex h-full min-w-[1100px] flex-col">
        <TopBar trail={[{ text: run.study_name, to: `/studies/${run.study_id}` }, { text: run.title }]}>
          <div role="tablist" aria-label="Views of the run" className="mr-4 flex gap-1">
            {TABS.filter(({ value }) => value !== "wall" || walled).map(({ value, text }) => (
              <button
                key={value}
                type="button"
                role="tab"
                aria-selected={tab === value}
                onClick={() => setTab(value)}
                className={`h-[45px] border-b-3 px-3 ${tab === value ? "border-permanganate font-semibold" : "border-transparent text-graphite hover:text-ink"}`}
              >
                {text}
              </button>
            ))}
          </div>
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
        {tab === "ledger" && <LedgerView />}
        {tab === "wall" && <Wall onOpen={() => setTab("work")} />}
        <div
          hidden={tab !== "work"}
          className={`${tab === "work" ? "grid" : "hidden"} min-h-0 flex-1 ${shape === "plate" ? (wide ? "grid-cols-1" : "grid-cols-[minmax(404px,31.5%)_minmax(262px,21%)_1fr]") : "grid-cols-[minmax(316px,25.5%)_minmax(266px,22.5%)_1fr]"}`}
        >
          <section aria-label="Readings" className="flex min-h-0 flex-col border-r border-rule">
            {plated && (
              <div className={`flex items-center gap-3 pb-2 ${wide && shape === "plate" ? "p-4" : "p-3"}`}>
                <h2 className="text-lg">Readings</h2>
                <Segments label="Readings as" value={shape} options={SHAPES} onChange={setShape} />
                <span className="flex-1" />
                {shape === "plate" && (
                  <Button
                    look={wide ? "plain" : "text"}
                    className={wide ? "" : "text-sm"}
                    onClick={() => setWide(!wide)}
                  >
                    {wide ? "Show the curve" : "Lay out…"}
                  </Button>
                )}
              </div>
            )}
            {shape === "plate" ? (
              <PlatePanel wide={wide}>
                <ShowWorking bare />
              </PlatePanel>
            ) : (
              <>
                <ReadingsList titled={!plated} />
                <ShowWorking />
              </>
            )}
          </section>
          <section
            aria-label="Working"
            hidden={wide && shape === "plate"}
            className="min-h-0 overflow-y-auto border-r border-rule p-3"
          >
            <StepList />
          </section>
          <div className={`min-h-0 min-w-0 flex-col ${wide && shape === "plate" ? "hidden" : "flex"}`}>
            <section aria-label="Curve" className="flex min-h-[250px] flex-[1.25] flex-col bg-chalk p-3">
              {/* What nobody sees behind the wall need not be drawn again with it. */}
              {tab !== "wall" && <CurveFigure />}
            </section>
            <section
              aria-label="Answers"
              className="flex min-h-[180px] flex-1 flex-col border-t border-rule p-3"
            >
              {tab !== "wall" && (asksDose(view) ? <EffectsTable /> : <AnswersTable />)}
            </section>
          </div>
        </div>
        <ExcludeDialog ids={excluding} onClose={() => setExcluding(null)} />
        <AssignDialog group={assigning} onClose={() => assign(null)} />
        <StaleDialog stale={stale} onSettle={settle} />
      </div>
    </WorkspaceContext>
  );
}
