/* A run's Work view: what its parts share, and the frame they stand in under the verdict. */
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { toast } from "sonner";
import type { RunView } from "../api/schema";
import { Away } from "../house/Away";
import { Asked } from "../ui/RoleMark";
import { SkipLinks } from "../ui/SkipLinks";
import { Columns, type Shape } from "./Columns";
import { Departures } from "./Departures";
import { AssignDialog, ExcludeDialog } from "./dialogs";
import { Wall } from "./effects/Wall";
import { LedgerView } from "./ledger/LedgerView";
import type { Room } from "./questions/room";
import { RunBar, type Tab } from "./RunBar";
import { ReviewView } from "./review/ReviewView";
import { StageLine } from "./review/StageLine";
import { StaleDialog, WaitingBar } from "./saving";
import { CurvesContext, useCurvesOf } from "./state/curves";
import { type OpenRun, OpenRunContext, useLookups } from "./state/open";
import { type Selected, SelectionContext, useSelectionIn } from "./state/selection";
import { useActions } from "./state/useActions";
import { useExcluding } from "./state/useExcluding";
import { useLive } from "./state/useLive";
import { useRunCommands } from "./useRunCommands";
import { useRunKeys } from "./useRunKeys";
import { VerdictLine } from "./VerdictLine";
import { useStepCommands } from "./working/useStepCommands";

const FigureTab = lazy(async () => ({ default: (await import("../figure/FigureTab")).FigureTab }));
const ReportTab = lazy(async () => ({ default: (await import("../report/ReportTab")).ReportTab }));
const PARTS = [
  { id: "answers", text: "the answers" },
  { id: "readings", text: "the readings" },
  { id: "working", text: "the working" },
];

export function Work({ view, room }: { view: RunView; room: Room }) {
  const { act, busy, waiting, stale, settle } = useActions(view.run.id);
  const remarks = useLive(view, busy);
  const lookups = useLookups(view);
  const curves = useCurvesOf(view);
  const selected = useSelectionIn(view, lookups.groups, curves.chooseCurve);
  const { exclude, excluding, stopExcluding } = useExcluding(view, lookups.excluded, act);
  const [assigning, assign] = useState<string | null>(null);
  const plated = (view.readings.plates ?? []).length > 0;
  const [shape, setShape] = useState<Shape>(plated ? "plate" : "list");
  const [wide, setWide] = useState(plated && view.revision.layout.groups.length === 0);
  const [query] = useSearchParams();
  const [tab, setTab] = useState<Tab>(query.has("revision") ? "ledger" : "work");
  const OfAll = room.Wall ?? Wall;
  const walled = room.wallFrom !== undefined && curves.curves.length >= room.wallFrom;

  useAnswerOfAddress(view, query.get("answer"), selected.select);
  const open = useMemo<OpenRun>(
    () => ({ view, room, ...lookups, act, exclude, assign, show: setTab }),
    [view, room, lookups, act, exclude],
  );
  useRunKeys({ selected, shape, act, exclude, assign });
  useRunCommands({ view, act, exclude, wells: selected.wells, plated, walled, setTab, setShape, setWide });
  useStepCommands({ view, room, act });
  return (
    <OpenRunContext value={open}>
      <CurvesContext value={curves}>
        <Asked value={view.revision.method.question}>
          <SelectionContext value={selected}>
            <div
              data-page-top
              tabIndex={-1}
              className="relative flex h-full min-w-[960px] flex-col outline-none"
            >
              <SkipLinks to={PARTS} />
              <RunBar tab={tab} onTab={setTab} walled={walled} remarks={remarks} />
              <Away run={view.run} />
              <StageLine onOpen={() => setTab("review")} />
              <Departures run={view.run} revision={view.revision.number} />
              {waiting ? <WaitingBar problem={waiting} /> : <VerdictLine />}
              <main className="flex min-h-0 flex-1 flex-col">
                <h1 className="sr-only">{view.run.title}</h1>
                {tab === "ledger" && <LedgerView />}
                {tab === "review" && <ReviewView />}
                <Suspense fallback={null}>
                  {tab === "figure" && <FigureTab />}
                  {tab === "report" && <ReportTab />}
                </Suspense>
                {tab === "wall" && <OfAll onOpen={() => setTab("work")} />}
                <Columns
                  tab={tab}
                  plated={plated}
                  shape={shape}
                  onShape={setShape}
                  wide={wide}
                  onWide={setWide}
                />
              </main>
              <ExcludeDialog excluding={excluding} onClose={stopExcluding} />
              <AssignDialog group={assigning} onClose={() => assign(null)} />
              <StaleDialog stale={stale} onSettle={settle} />
            </div>
          </SelectionContext>
        </Asked>
      </CurvesContext>
    </OpenRunContext>
  );
}

/** Select the answer that a link names, by its name or its group's id, once. */
function useAnswerOfAddress(view: RunView, named: string | null, select: Selected["select"]) {
  const [done, setDone] = useState(false);
  useEffect(() => {
    if (done || !named) return;
    setDone(true);
    const group = view.revision.layout.groups.find((each) => each.id === named || each.name === named);
    if (group) select({ group: group.id, reading: null });
    else toast.error(`This run has no answer “${named}” any more.`);
  }, [done, named, view, select]);
}
