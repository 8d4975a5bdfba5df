/* The batches of a method, or all, the newest first. */
import { Link } from "react-router";
import type { BatchHead } from "../api/schema";
import { useBatches } from "../methods/queries";
import { Heads } from "../ui/Heads";
import { Message, Pending } from "../ui/Message";

const STATES: Record<BatchHead["state"], string> = {
  filling: "not begun",
  running: "running",
  stopped: "stopped",
  done: "done",
};

export function BatchList({ method }: { method?: number }) {
  const { data, error, failureReason, refetch } = useBatches(method);
  if (!data) return <Pending failure={error ?? failureReason} onRetry={refetch} />;
  if (data.length === 0)
    return (
      <Message
        title="No batch yet."
        detail="“Many files…” on a method works a whole folder by it, each file as a run of its own."
      />
    );
  return (
    <div className="overflow-y-auto p-5">
      <table className="w-full">
        <Heads
          of={[
            { text: "Batch" },
            { text: "Method" },
            { text: "Study" },
            { text: "State" },
            { text: "Done", right: true },
            { text: "Failed", right: true },
            { text: "Waiting", right: true },
          ]}
        />
        <tbody>
          {data.map((each) => (
            <tr key={each.id} className="border-b border-rule">
              <td className="py-1.5">
                <Link to={`/batches/${each.id}`} className="font-semibold hover:underline">
                  {each.name}
                </Link>
              </td>
              <td>
                {each.method}, version {each.version}
              </td>
              <td className="text-graphite">{each.study}</td>
              <td>{STATES[each.state]}</td>
              <td className="text-right">{each.done}</td>
              <td className={`text-right ${each.failed > 0 ? "text-cinnabar" : ""}`}>{each.failed}</td>
              <td className="text-right">{each.waiting}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
