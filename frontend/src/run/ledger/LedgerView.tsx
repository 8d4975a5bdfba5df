/* The Ledger: every change in words, by whom and when; what two revisions differ in; the way back to any of them. */

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { answer, api } from "../../api/client";
import type { Changed, Difference } from "../../api/schema";
import { Button } from "../../ui/Button";
import { CopyLink } from "../../ui/CopyLink";
import { Pending } from "../../ui/Message";
import { useOpenRun } from "../state/open";

export function LedgerView() {
  const { view, act } = useOpenRun();
  const id = view.run.id;
  const current = view.revision.number;
  const entries = useQuery({
    queryKey: ["ledger", id, current],
    placeholderData: (previous) => previous,
    queryFn: () => answer(api.GET("/api/runs/{id}/ledger", { params: { path: { id } } })),
  });
  const [query, setQuery] = useSearchParams();
  const chosen = Number(query.get("revision")) || null;
  // The address names the revision, so that it can be handed on.
  const setChosen = (revision: number) => setQuery({ revision: String(revision) }, { replace: true });
  const [against, setAgainst] = useState<"before" | "now">("before");
  const number = chosen ?? current;
  const other = against === "now" ? current : Math.max(number - 1, 1);
  const [before, after] = [Math.min(number, other), Math.max(number, other)];
  const found = useQuery({
    queryKey: ["difference", id, before, after],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      answer(
        api.GET("/api/runs/{id}/revisions/{before}/difference/{after}", {
          params: { path: { id, before, after } },
        }),
      ),
  });
  if (!entries.data) return <Pending failure={entries.error} onRetry={entries.refetch} />;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(300px,46%)_1fr]">
      <section aria-label="Ledger" className="min-h-0 overflow-y-auto border-r border-rule p-4">
        <h2 className="mb-2 text-lg">Ledger</h2>
        <ol className="border-t border-rule">
          {[...entries.data].reverse().map((entry, i) => (
            <li key={entries.data.length - i} className="border-b border-rule">
              <button
                type="button"
                aria-pressed={entry.revision === number}
                onClick={() => setChosen(entry.revision)}
                className={`flex w-full gap-3 px-2 py-2 text-left ${entry.revision === number ? "bg-permanganate-tint" : "hover:bg-rule/40"}`}
              >
                <span className="w-7 shrink-0 text-right text-graphite">{entry.revision}</span>
                <span className="min-w-0 flex-1">
                  {entry.words}
                  <span className="block text-sm text-graphite">
                    {entry.author}, {new Date(entry.at).toLocaleString("en-GB")}
                    {entry.revision === current && " · as it is now"}
                  </span>
                </span>
              </button>
            </li>
          ))}
        </ol>
      </section>
      <section aria-label="Difference" tabIndex={0} className="min-h-0 overflow-y-auto bg-chalk p-4">
        <div className="mb-3 flex items-center gap-3">
          <h2 className="text-lg">
            {before === after ? `Revision ${number}` : `From revision ${before} to ${after}`}
          </h2>
          <span className="flex-1" />
          <CopyLink address={`/runs/${id}?revision=${number}`} />
          {number !== current && (
            <>
              <Button look="text" onClick={() => setAgainst(against === "now" ? "before" : "now")}>
                {against === "now" ? "Compare with the one before" : "Compare with the current one"}
              </Button>
              <Button
                look="accent"
                onClick={() => act({ kind: "restore", number, words: `Back to revision ${number}` })}
              >
                Go back to {number}
              </Button>
            </>
          )}
        </div>
        {found.data ? (
          <Differences found={found.data} first={before === after} />
        ) : (
          <Pending failure={found.error} onRetry={found.refetch} />
        )}
      </section>
    </div>
  );
}

const PARTS: { part: keyof Difference; title: string }[] = [
  { part: "settings", title: "Settings" },
  { part: "layout", title: "Layout" },
  { part: "exclusions", title: "Exclusions" },
  { part: "answers", title: "Answers" },
];

function Differences({ found, first }: { found: Difference; first: boolean }) {
  const some = PARTS.filter(({ part }) => found[part].length > 0);
  if (some.length === 0)
    return (
      <p className="text-graphite">
        {first ? "The run as it was opened." : "Nothing differs between the two."}
      </p>
    );
  return some.map(({ part, title }) => (
    <table key={part} aria-label={title} className="mb-4 w-full text-md">
      <thead className="border-b border-rule text-left text-sm text-graphite">
        <tr>
          <th scope="col" className="w-[34%] py-1 font-normal">
            {title}
          </th>
          <th scope="col" className="w-[33%] font-normal">
            before
          </th>
          <th scope="col" className="font-normal">
            after
          </th>
        </tr>
      </thead>
      <tbody>
        {found[part].map((row: Changed, i: number) => (
          <tr key={`${row.what} ${i}`} className="border-b border-rule/70 align-top">
            <th scope="row" className="py-1 pr-2 text-left font-normal">
              {row.what}
            </th>
            <td className="py-1 pr-2 text-graphite">{row.before || "—"}</td>
            <td className="py-1 font-semibold">{row.after || "—"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  ));
}
