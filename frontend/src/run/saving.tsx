/* When saving does not go straight through: the database is away, or someone else was faster. */
import type { problemOf } from "../api/client";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import type { Action, StaleSave } from "./state/useActions";

export function WaitingBar({ problem }: { problem: ReturnType<typeof problemOf> }) {
  return (
    <div
      role="alert"
      className="flex min-h-[38px] items-center border-b border-iodine/40 bg-iodine-tint px-4 text-iodine"
    >
      <p>
        <b>{problem.title}</b> Your change is kept here and sent again every second; nothing is lost.
      </p>
    </div>
  );
}

function wordsOf(action: Action): string {
  return action.kind === "change" || action.kind === "restore"
    ? action.words
    : action.kind === "undo"
      ? "Undo"
      : "Redo";
}

export function StaleDialog({
  stale,
  onSettle,
}: {
  stale: StaleSave | null;
  onSettle: (again: boolean) => void;
}) {
  const since = stale?.problem.since ?? [];
  return (
    <Ask
      title="This run was changed in another window"
      detail="Your change was not saved over it. Nothing is lost: choose what to do with it."
      open={stale !== null}
      onClose={() => onSettle(false)}
    >
      <div>
        <h3 className="font-sans text-sm text-graphite">Changed there since you opened it</h3>
        <ul className="max-h-[180px] overflow-y-auto">
          {since.map((entry) => (
            <li key={entry.revision} className="border-b border-rule py-1">
              {entry.words}
              <span className="text-sm text-graphite">
                {" "}
                · {entry.author}, {new Date(entry.at).toLocaleTimeString("en-GB")}
              </span>
            </li>
          ))}
        </ul>
        <h3 className="mt-3 font-sans text-sm text-graphite">Your change</h3>
        <p className="font-semibold">{stale && wordsOf(stale.action)}</p>
      </div>
      <div className="flex justify-end gap-2">
        <Button onClick={() => onSettle(false)}>Discard mine, show theirs</Button>
        <Button look="accent" onClick={() => onSettle(true)}>
          Apply mine on top of theirs
        </Button>
      </div>
    </Ask>
  );
}
