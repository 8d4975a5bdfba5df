/* Over a run that is not as its method says: in what, and why. */
import { useState } from "react";
import type { RunHead } from "../api/schema";
import { useKeeping } from "../house/keeping";
import { useDepartures } from "../methods/queries";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { StateDot } from "../ui/StateDot";

const NAMED = 3;

export function Departures({ run, revision }: { run: RunHead; revision: number }) {
  const { data } = useDepartures(run.id, revision, run.method != null);
  const { keep } = useKeeping();
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const [all, setAll] = useState(false);
  if (!data || data.length === 0 || !run.method) return null;
  const shown = all ? data : data.slice(0, NAMED);
  return (
    <div role="status" className="flex items-start gap-2 border-b border-rule bg-iodine-tint px-4 py-1.5">
      <span className="mt-1">
        <StateDot state="look" />
      </span>
      <p className="min-w-0 flex-1">
        <b>Departs from its method:</b>{" "}
        {shown
          .map((each) => `${each.what} ${each.after || "none"} instead of ${each.before || "none"}`)
          .join("; ")}
        {data.length > NAMED && (
          <Button look="text" className="ml-1" onClick={() => setAll(!all)}>
            {all ? "fewer" : `and ${data.length - NAMED} more`}
          </Button>
        )}
        . {run.departs ? `Reason: ${run.departs}` : "No reason is given yet."}
      </p>
      <Button
        look="text"
        className="shrink-0"
        onClick={() => {
          setReason(run.departs ?? "");
          setAsking(true);
        }}
      >
        {run.departs ? "Change the reason…" : "Say why…"}
      </Button>
      <Ask open={asking} title="Why does this run depart from its method?" onClose={() => setAsking(false)}>
        <form
          className="flex flex-col gap-3"
          onSubmit={async (event) => {
            event.preventDefault();
            if (await keep([run.id], { kind: "departs", text: reason }, "The reason is kept."))
              setAsking(false);
          }}
        >
          <Field label="Reason" value={reason} onChange={setReason} maxLength={4000} autoFocus />
          <Button look="accent" type="submit" className="self-end">
            Keep the reason
          </Button>
        </form>
      </Ask>
    </div>
  );
}
