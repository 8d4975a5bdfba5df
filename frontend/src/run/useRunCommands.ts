/* What can be done to a run, as commands. */
import { useMemo } from "react";
import { useNavigate } from "react-router";
import { EXPORTS } from "../api/declared";
import { type Act, useCommands } from "../app/commands";
import type { Shape } from "./Columns";
import { exportOf, sourceOf } from "./exports";
import type { Tab } from "./RunBar";
import type { OpenRun } from "./state/open";

interface Props extends Pick<OpenRun, "view" | "act" | "exclude"> {
  wells: ReadonlySet<number>;
  plated: boolean;
  walled: boolean;
  setTab: (tab: Tab) => void;
  setShape: (shape: Shape) => void;
  setWide: (wide: boolean) => void;
}

export function useRunCommands(props: Props): void {
  const { view, act, exclude, wells, plated, walled, setTab, setShape, setWide } = props;
  const { run, revision } = view;
  const navigate = useNavigate();
  const commands = useMemo<Act[]>(
    () => [
      {
        id: "undo",
        text: "Undo",
        keys: "Ctrl Z",
        disabled: revision.undo_to == null,
        run: () => act({ kind: "undo" }),
      },
      {
        id: "redo",
        text: "Redo",
        keys: "Ctrl Y",
        disabled: revision.redo_to == null,
        run: () => act({ kind: "redo" }),
      },
      {
        id: "exclude",
        text: "Exclude or include the selection",
        keys: "X",
        disabled: wells.size === 0,
        run: () => exclude([...wells]),
      },
      { id: "figure", text: "Show the figure for print", run: () => setTab("figure") },
      { id: "report", text: "Show the report", run: () => setTab("report") },
      { id: "ledger", text: "Show the Ledger", run: () => setTab("ledger") },
      { id: "review", text: "Review, remarks and signatures", run: () => setTab("review") },
      { id: "wall", text: "Show the wall of curves", disabled: !walled, run: () => setTab("wall") },
      { id: "work", text: "Show the Work view", run: () => setTab("work") },
      { id: "plate", text: "Show the plate", disabled: !plated, run: () => setShape("plate") },
      { id: "list", text: "Show the readings as a list", run: () => setShape("list") },
      { id: "lay", text: "Lay the plate out", disabled: !plated, run: () => setWide(true) },
      ...EXPORTS.filter((each) => !each.pasted).map(({ form, title, note }) => ({
        id: form,
        text: `Download as ${title}: ${note.charAt(0).toLowerCase()}${note.slice(1)}`,
        run: () => window.location.assign(exportOf(run.id, form)),
      })),
      {
        id: "intake",
        text: "Correct what was understood of the readings",
        run: () => navigate(`/runs/${run.id}/intake`),
      },
      {
        id: "source",
        text: "Download what was brought in",
        run: () => window.location.assign(sourceOf(run.id)),
      },
    ],
    [act, exclude, navigate, plated, revision, run.id, setShape, setTab, setWide, walled, wells],
  );
  useCommands("run", commands);
}
