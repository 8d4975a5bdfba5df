/* A run: fetched, its question's room loaded, and the Work view opened on both. */
import { Suspense, use, useEffect } from "react";
import { useParams } from "react-router";
import { useRun } from "../api/hooks";
import type { RunView } from "../api/schema";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { roomOf } from "./questions/registry";
import { Work } from "./Work";

export function RunPage() {
  const id = Number(useParams().run);
  const run = useRun(id);
  const waiting = (
    <div className="flex h-full flex-col">
      <TopBar trail={[]} />
      <Pending failure={run.error ?? run.failureReason} onRetry={run.refetch} />
    </div>
  );
  if (!run.data) return waiting;
  return (
    <Suspense fallback={waiting}>
      <InItsRoom key={id} view={run.data} />
    </Suspense>
  );
}

function InItsRoom({ view }: { view: RunView }) {
  // Who opened it goes on by key from its beginning, not from a button that is gone.
  useEffect(() => {
    if (document.activeElement === document.body)
      document.querySelector<HTMLElement>("[data-page-top]")?.focus();
  }, []);
  return <Work view={view} room={use(roomOf(view.revision.method.question ?? "concentration"))} />;
}
