/* The Ledger of the whole lab: who did what, filtered, written out, and its chain checked. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import type { Checked } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Heads } from "../ui/Heads";
import { Message, Pending } from "../ui/Message";
import { StateDot } from "../ui/StateDot";
import { TopBar } from "../ui/TopBar";

const PAGE = 100;
const ALL = "everything";
const EVERYBODY = "everybody";

export function LabLedger() {
  const [person, setPerson] = useState(EVERYBODY);
  const [action, setAction] = useState(ALL);
  const [find, setFind] = useState("");
  const [since, setSince] = useState("");
  const [until, setUntil] = useState("");
  const [count, setCount] = useState(PAGE);
  const query = {
    ...(person !== EVERYBODY && { person }),
    ...(action !== ALL && { action }),
    ...(find && { find }),
    ...(since && { since }),
    ...(until && { until }),
  };
  const facets = useQuery({
    queryKey: ["lab ledger", "facets"],
    queryFn: () => answer(api.GET("/api/ledger/facets")),
  });
  const page = useQuery({
    queryKey: ["lab ledger", query, count],
    placeholderData: (previous) => previous,
    queryFn: () =>
      answer(api.GET("/api/ledger", { params: { query: { ...query, count: Math.min(count, 500) } } })),
  });
  const written = (form: string) => `/api/ledger/file.${form}?${new URLSearchParams(query)}`;
  const date = (label: string, value: string, set: (value: string) => void) => (
    <label className="flex items-center gap-1 text-graphite">
      {label}
      <input
        type="date"
        value={value}
        onChange={(event) => set(event.target.value)}
        className="rounded-md border border-rule bg-chalk px-1.5 py-0.5 text-ink"
      />
    </label>
  );
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[{ text: "Ledger of the lab" }]}>
        <a href={written("csv")} download className="text-permanganate hover:underline">
          Save as CSV
        </a>
        <a href={written("json")} download className="mr-2 text-permanganate hover:underline">
          Save as JSON
        </a>
      </TopBar>
      <main className="flex min-h-0 flex-1 flex-col p-5 pb-0">
        <h1 className="text-xl">Ledger of the lab</h1>
        <Chain />
        <div className="flex flex-wrap items-center gap-4 border-b border-rule py-2">
          <input
            type="search"
            aria-label="Find in the Ledger"
            placeholder="Words of the entry"
            value={find}
            onChange={(event) => setFind(event.target.value)}
            className="w-[240px] rounded-md border border-rule bg-chalk px-2 py-1"
          />
          <Pick
            label="Person"
            value={person}
            options={[EVERYBODY, ...(facets.data?.people ?? [])].map((text) => ({ value: text, text }))}
            onChange={setPerson}
          />
          <Pick
            label="Action"
            value={action}
            options={[ALL, ...(facets.data?.actions ?? [])].map((text) => ({ value: text, text }))}
            onChange={setAction}
          />
          {date("from", since, setSince)}
          {date("to", until, setUntil)}
          <span className="ml-auto text-graphite">
            {page.data && `${page.data.total.toLocaleString("en-GB")} entries`}
          </span>
        </div>
        {!page.data ? (
          <Pending failure={page.error ?? page.failureReason} onRetry={page.refetch} />
        ) : page.data.total === 0 ? (
          <Message title="No such entry." detail="Choose other words, another person or other days." />
        ) : (
          <div className="min-h-0 flex-1 overflow-y-auto">
            <table className="w-full">
              <Heads
                of={[
                  { text: "No.", right: true, className: "w-14 pr-3" },
                  { text: "At (UTC)", className: "w-[150px]" },
                  { text: "By", className: "w-[160px]" },
                  { text: "What" },
                  { text: "Run or study", className: "w-[240px]" },
                ]}
              />
              <tbody>
                {page.data.entries.map((entry) => (
                  <tr key={entry.number} className="border-b border-rule align-baseline">
                    <td className="py-1 pr-3 text-right text-graphite">{entry.number}</td>
                    <td className="pr-3 whitespace-nowrap text-graphite">
                      {entry.at.slice(0, 19).replace("T", " ")}
                    </td>
                    <td className="pr-3">{entry.author}</td>
                    <td className="pr-3 break-words">{entry.words}</td>
                    <td>
                      {entry.run_id != null ? (
                        <Link
                          to={`/runs/${entry.run_id}?revision=${entry.revision ?? 1}`}
                          className="hover:underline"
                        >
                          {entry.run}
                          {entry.revision != null && (
                            <span className="text-graphite"> · revision {entry.revision}</span>
                          )}
                        </Link>
                      ) : (
                        <span className="text-graphite">{entry.study}</span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {page.data.entries.length < page.data.total && (
              <p className="py-3 text-center">
                {count < 500 ? (
                  <Button onClick={() => setCount(count + PAGE)}>Show more</Button>
                ) : (
                  <span className="text-graphite">The newest 500 are shown; all are in the file.</span>
                )}
              </p>
            )}
          </div>
        )}
      </main>
    </div>
  );
}

function Chain() {
  const [found, setFound] = useState<Checked | null>(null);
  const [busy, setBusy] = useState(false);
  const check = async () => {
    setBusy(true);
    await attempted(answer(api.GET("/api/ledger/chain")).then(setFound));
    setBusy(false);
  };
  return (
    <p className="flex items-baseline gap-2 py-1">
      {found === null ? (
        <span className="text-graphite">
          Each entry is sealed with what it did and the seal before it, so that a rewritten past is found.
        </span>
      ) : found.broken == null ? (
        <>
          <StateDot state="pass" />
          <span>
            {found.sealed.toLocaleString("en-GB")} entries fit
            {found.waiting > 0 && `, ${found.waiting} are still to be sealed`}. Last seal{" "}
            <span className="font-mono text-sm">{(found.head ?? "").slice(0, 16)}…</span>
          </span>
        </>
      ) : (
        <>
          <StateDot state="fail" />
          <b>
            The Ledger does not fit from entry {found.broken} on: {found.why}.
          </b>
        </>
      )}
      <Button look="text" disabled={busy} onClick={check}>
        {busy ? "Checking …" : "Check the chain"}
      </Button>
    </p>
  );
}
