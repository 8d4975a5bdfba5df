/* Over a run that is put away or in the bin: where it lies, and the way back. */
import type { RunHead } from "../api/schema";
import { Button } from "../ui/Button";
import { useKeeping } from "./keeping";

export function Away({ run }: { run: RunHead }) {
  const { keep } = useKeeping();
  if (!run.binned && !run.archived) return null;
  return (
    <p className="flex items-center gap-3 border-b border-rule bg-iodine-tint px-4 py-1.5">
      {run.binned
        ? "This run is in the bin: it can be looked at, and changed once it is taken out."
        : "This run is put away: it is not listed among the current ones."}
      <Button
        look="text"
        onClick={() =>
          run.binned
            ? keep([run.id], { kind: "bin", binned: false }, "Taken out of the bin.")
            : keep([run.id], { kind: "archive", archived: false }, "Brought back.")
        }
      >
        {run.binned ? "Take it out" : "Bring it back"}
      </Button>
    </p>
  );
}
