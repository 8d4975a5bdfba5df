/* The runs that were worked by a method, the newest first. */
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import type { Listed } from "../api/schema";
import { Button } from "../ui/Button";
import { Heads } from "../ui/Heads";
import { Message, Pending } from "../ui/Message";
import { StateDot } from "../ui/StateDot";

const PAGE = 100;

export function MethodRuns({ method }: { method: number }) {
  const { data, error, failureReason, refetch, fetchNextPage, hasNextPage } = useInfiniteQuery({
    queryKey: ["runs", "of method", method],
    initialPageParam: 0,
    getNextPageParam: (last: Listed, pages: Listed[]) =>
      pages.length * PAGE < last.total ? pages.length * PAGE : undefined,
    queryFn: ({ pageParam }) =>
      answer(
        api.GET("/api/runs", {
          params: { query: { method, place: "anywhere", sort: "created", first: pageParam, count: PAGE } },
        }),
      ),
  });
  if (!data) return <Pending failure={error ?? failureReason} onRetry={refetch} />;
  const runs = data.pages.flatMap((page) => page.runs);
  if (runs.length === 0)
    return (
      <Message
        title="No run by this method yet."
        detail="Use it on new readings; each run says which version it was worked by."
      />
    );
  return (
    <div className="overflow-y-auto p-5">
      <table className="w-full">
        <Heads
          of={[
            { text: "", label: "Verdict", className: "w-6" },
            { text: "Run" },
            { text: "What came of it" },
            { text: "Study" },
            { text: "Opened" },
          ]}
        />
        <tbody>
          {runs.map((run) => (
            <tr key={run.id} className="border-b border-rule">
              <td>
                <StateDot state={run.card.state} />
              </td>
              <td className="py-1.5">
                <Link to={`/runs/${run.id}`} className="font-semibold hover:underline">
                  {run.title}
                </Link>
              </td>
              <td>{run.card.headline}</td>
              <td className="text-graphite">{run.study}</td>
              <td className="text-graphite">
                {new Date(run.created_at).toLocaleDateString("en-GB", {
                  day: "numeric",
                  month: "short",
                  year: "numeric",
                })}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {hasNextPage && (
        <Button look="text" className="mt-3" onClick={() => fetchNextPage()}>
          Show more
        </Button>
      )}
    </div>
  );
}
