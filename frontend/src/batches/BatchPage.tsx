/* A batch: how far it is, what came of each file, and all answers in one table. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import type { BatchHead } from "../api/schema";
import { methodKeys } from "../methods/queries";
import { Button } from "../ui/Button";
import { Segments } from "../ui/Choice";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { BatchAnswers } from "./BatchAnswers";
import { BatchFiles, type Shown } from "./BatchFiles";

const POLL = 1000;

export function BatchPage() {
  const id = Number(useParams().batch);
  const [shown, setShown] = useState<Shown | "answers">("all");
  const [count, setCount] = useState(200);
  const queries = useQueryClient();
  const state = shown === "failed" || shown === "done" || shown === "waiting" ? shown : null;
  const { data, error, failureReason, refetch } = useQuery({
    queryKey: [...methodKeys.batch(id), state, count],
    placeholderData: (previous) => previous,
    refetchInterval: (query) => (query.state.data?.head.state === "running" ? POLL : false),
    queryFn: () =>
      answer(
        api.GET("/api/batches/{id}", {
          params: { path: { id }, query: { count, ...(state && { state }) } },
        }),
      ),
  });
  if (!data) return <Pending failure={error ?? failureReason} onRetry={refetch} />;
  const { head, items } = data;
  const all = head.waiting + head.done + head.failed;
  const path = { params: { path: { id } } };
  const refresh = () => queries.invalidateQueries({ queryKey: methodKeys.batch(id) });
  const start = (again: boolean) =>
    attempted(
      answer(api.POST("/api/batches/{id}/start", { params: { path: { id }, query: { again } } })).then(
        refresh,
      ),
    );
  return (
    <div className="flex h-full min-w-[960px] flex-col">
      <TopBar trail={[{ text: head.method, to: `/methods/${head.method_id}/batches` }, { text: head.name }]}>
        {head.state === "running" && (
          <Button onClick={() => attempted(answer(api.POST("/api/batches/{id}/stop", path)).then(refresh))}>
            Stop
          </Button>
        )}
        {(head.state === "stopped" || head.state === "filling") && head.waiting > 0 && (
          <Button look="accent" onClick={() => start(false)}>
            Go on with {head.waiting}
          </Button>
        )}
        {head.state !== "running" && head.failed > 0 && (
          <Button onClick={() => start(true)}>Try the {head.failed} that failed again</Button>
        )}
      </TopBar>
      <main className="flex min-h-0 flex-1 flex-col gap-3 p-5">
        <h1 className="text-xl">{head.name}</h1>
        <p className="text-graphite">
          By{" "}
          <Link
            className="text-permanganate hover:underline"
            to={`/methods/${head.method_id}?version=${head.version}`}
          >
            {head.method}, version {head.version}
          </Link>
          , into{" "}
          <Link className="text-permanganate hover:underline" to={`/studies/${head.study_id}`}>
            {head.study}
          </Link>
          .
        </p>
        <Bar head={head} all={all} />
        <div className="flex items-center gap-4">
          <Segments
            label="Shown"
            value={shown}
            onChange={setShown}
            options={[
              { value: "all", text: `All ${all}` },
              { value: "done", text: `Done ${head.done}` },
              { value: "failed", text: `Failed ${head.failed}` },
              { value: "answers", text: "Answers" },
            ]}
          />
          <a className="text-permanganate hover:underline" href={`/api/batches/${id}/answers.csv`} download>
            All answers as CSV
          </a>
        </div>
        {shown === "answers" ? (
          <BatchAnswers batch={id} done={head.done} />
        ) : (
          <BatchFiles
            items={items}
            more={items.length === count}
            onMore={() => setCount((old) => Math.min(1000, old + 400))}
          />
        )}
      </main>
    </div>
  );
}

function Bar({ head, all }: { head: BatchHead; all: number }) {
  const done = head.done + head.failed;
  const share = all === 0 ? 0 : done / all;
  return (
    <div>
      <div
        role="progressbar"
        aria-label="Files worked"
        aria-valuemin={0}
        aria-valuemax={all}
        aria-valuenow={done}
        className="h-2 overflow-hidden rounded-full bg-rule"
      >
        <div className="h-full bg-permanganate" style={{ width: `${100 * share}%` }} />
      </div>
      <p role="status" className="mt-1 text-graphite">
        {done.toLocaleString("en-GB")} of {all.toLocaleString("en-GB")} files
        {head.state === "running" &&
          (head.left == null ? "; the workers are starting …" : `, about ${timeOf(head.left)} left`)}
        {head.state === "stopped" && "; stopped, what is done stays"}
        {head.state === "done" &&
          (head.failed === 0 ? "; all became runs" : `; ${head.failed} could not be worked`)}
      </p>
    </div>
  );
}

function timeOf(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 90 ? `${minutes} min` : `${(minutes / 60).toFixed(1)} h`;
}
