/* The answers of all runs of a batch in one table. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { methodKeys } from "../methods/queries";
import { Heads } from "../ui/Heads";
import { Pending } from "../ui/Message";
import { StateDot } from "../ui/StateDot";

const MOST = 1000; // rows that are listed; all are in the file

export function BatchAnswers({ batch, done }: { batch: number; done: number }) {
  const { data, error, failureReason, refetch } = useQuery({
    queryKey: [...methodKeys.batch(batch), "answers", done],
    placeholderData: (previous) => previous,
    queryFn: () => answer(api.GET("/api/batches/{id}/answers", { params: { path: { id: batch } } })),
  });
  if (!data) return <Pending failure={error ?? failureReason} onRetry={refetch} />;
  if (data.length === 0) return <p className="text-graphite">No answer yet.</p>;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <table className="w-full">
        <Heads
          of={[
            { text: "", label: "Verdict of the run", className: "w-6" },
            { text: "Run" },
            { text: "Name" },
            { text: "Answer", right: true },
            { text: "95 % interval", right: true },
            { text: "Unit", className: "pl-3" },
          ]}
        />
        <tbody>
          {data.slice(0, MOST).map((each, i) => (
            <tr key={`${each.run_id} ${i}`} className="border-b border-rule">
              <td>
                <StateDot state={each.verdict as "pass" | "look" | "fail"} />
              </td>
              <td className="py-1">
                <Link to={`/runs/${each.run_id}`} className="hover:underline">
                  {each.run}
                </Link>
              </td>
              <td className="font-semibold">{each.name}</td>
              <td className="text-right">
                {each.censor
                  ? `${each.censor} ${shown(each.censor === ">" ? each.lower : each.upper)}`
                  : shown(each.value)}
              </td>
              <td className="text-right text-graphite">
                {each.value != null && each.lower != null && each.upper != null
                  ? `${shown(each.lower)} – ${shown(each.upper)}`
                  : ""}
              </td>
              <td className="pl-3 text-graphite">{each.unit}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {data.length > MOST && (
        <p className="mt-2 text-graphite">
          The first {MOST.toLocaleString("en-GB")} of {data.length.toLocaleString("en-GB")}; all are in the
          CSV.
        </p>
      )}
    </div>
  );
}

function shown(value: number | null | undefined): string {
  if (value == null) return "—";
  const text = String(Number(value.toPrecision(4)));
  return text.replace("-", "−");
}
