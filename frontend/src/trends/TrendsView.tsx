/* Trends of a method: what is watched, one of it as a control chart, and precision over its runs. */
import { useState } from "react";
import type { Trend } from "../api/schema";
import { useTrends } from "../methods/queries";
import { Button } from "../ui/Button";
import { Message, Pending } from "../ui/Message";
import { StateDot } from "../ui/StateDot";
import { ChooseBase } from "./ChooseBase";
import { ControlChart } from "./ControlChart";
import { Points } from "./Points";
import { Precision } from "./Precision";
import { Spark } from "./Spark";

/** What never changes is no trend. */
function moves(trend: Trend): boolean {
  return trend.points.some((point) => point.value !== trend.points[0]!.value) || trend.signals.length > 0;
}

export function TrendsView({ method }: { method: number }) {
  const [counted, setCounted] = useState<readonly number[]>([]);
  const { data, error, failureReason, refetch } = useTrends(method, counted);
  const [key, setKey] = useState<string | null>(null);
  const [choosing, setChoosing] = useState(false);
  const [listed, setListed] = useState(false);
  if (!data) return <Pending failure={error ?? failureReason} onRetry={refetch} />;
  const watched = data.watched.filter(moves);
  if (watched.length === 0)
    return (
      <Message
        title="Nothing to watch yet."
        detail="With two runs by this method or more, their QCs, curve, blank, limits and replicates are followed here."
      />
    );
  const shown =
    watched.find((each) => each.key === key) ?? watched.find((each) => each.state !== "pass") ?? watched[0]!;
  return (
    <>
      {data.said.length > 0 && (
        <p role="status" className="flex items-center gap-2 border-b border-rule bg-chalk px-4 py-2">
          <StateDot state="look" />
          <span>{data.said.join(" ")}</span>
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[250px_minmax(0,1fr)]">
        <nav aria-label="Watched" className="overflow-y-auto border-r border-rule p-3.5">
          <h2 className="mb-2 text-lg">Watched</h2>
          {watched.map((each) => (
            <button
              key={each.key}
              type="button"
              aria-current={each.key === shown.key}
              onClick={() => setKey(each.key)}
              className={`flex w-full items-center gap-2 rounded-md px-2 py-1.5 text-left ${each.key === shown.key ? "bg-permanganate-tint" : "hover:bg-rule/40"}`}
            >
              <StateDot state={each.state} />
              <span className="min-w-0 flex-1">
                <span className="block truncate font-semibold">{each.title}</span>
                <span className="block text-sm text-graphite">{each.now}</span>
              </span>
              <Spark values={each.points.map((point) => point.value)} />
            </button>
          ))}
        </nav>
        <div className="flex min-h-0 flex-col overflow-y-auto">
          <section aria-label={`Control chart of ${shown.title}`} className="bg-chalk p-4">
            <div className="flex items-baseline gap-3">
              <h2 className="text-lg">{shown.title}</h2>
              <span className="text-graphite">
                one point a run{shown.unit && `, ${shown.unit}`}
                {shown.nominal != null && `; nominal ${shown.nominal}`}
              </span>
              <a
                className="ml-auto text-permanganate hover:underline"
                href={`/api/methods/${method}/trends.csv?key=${encodeURIComponent(shown.key)}`}
                download
              >
                CSV
              </a>
              <a
                className="text-permanganate hover:underline"
                href={`/api/methods/${method}/trends/report.pdf`}
                download
              >
                Report (PDF)
              </a>
            </div>
            {shown.state === "pass" && <p className="text-graphite">{shown.said}</p>}
            <ControlChart trend={shown} />
            <p className="text-sm text-graphite">
              {shown.held ? (
                <>
                  Center {shown.held.shown_center} and limits from {shown.held.basis}; the SD is the mean
                  moving range ÷ 1.128.{" "}
                </>
              ) : null}
              <Button look="text" onClick={() => setChoosing(true)}>
                Choose others…
              </Button>{" "}
              <Button look="text" aria-expanded={listed} onClick={() => setListed(!listed)}>
                As a table
              </Button>
            </p>
            {listed && <Points trend={shown} />}
          </section>
          <Precision data={data} method={method} counted={counted} onCount={setCounted} />
        </div>
      </div>
      {choosing && <ChooseBase method={method} trend={shown} onClose={() => setChoosing(false)} />}
    </>
  );
}
