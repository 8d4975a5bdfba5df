/* Doing things to a run: one after the other, each sent until it is answered, a stale one put before the person. */
import { useQueryClient } from "@tanstack/react-query";
import { type RefObject, useCallback, useRef, useState } from "react";
import { toast } from "sonner";
import { answer, api, ProblemError, problemOf } from "../../api/client";
import { keys } from "../../api/hooks";
import { newKey } from "../../api/key";
import type { Problem, Revision, RunView, Save } from "../../api/schema";

export type Change = Save["changes"][number];
export type Action =
  | { kind: "change"; changes: Change[] | ((view: RunView) => Change[]); words: string }
  | { kind: "restore"; number: number; words: string }
  | { kind: "undo" }
  | { kind: "redo" };

type Made = Exclude<Action, { kind: "change" }> | { kind: "change"; changes: Change[]; words: string };

export interface StaleSave {
  action: Action;
  problem: ProblemError["problem"] & Pick<Partial<Problem>, "since" | "current">;
}

export interface Actions {
  act: (action: Action) => void;
  /** How many actions are on their way. */
  busy: RefObject<number>;
  /** Why an action is still waiting to be saved; null when all is saved. */
  waiting: ProblemError["problem"] | null;
  stale: StaleSave | null;
  /** Settle a stale save: make it again on the newer state, or leave it. */
  settle: (again: boolean) => Promise<void>;
}

const RETRY_MS = 1000;

export function useActions(run: number): Actions {
  const queries = useQueryClient();
  const queue = useRef<Promise<void>>(Promise.resolve());
  const busy = useRef(0);
  const [waiting, setWaiting] = useState<Actions["waiting"]>(null);
  const [stale, setStale] = useState<StaleSave | null>(null);

  const perform = useCallback(
    async (action: Action) => {
      const view = queries.getQueryData<RunView>(keys.run(run));
      if (!view) return;
      // A change of a step is made of the step as it is once the actions before it are done.
      const made =
        action.kind === "change" && typeof action.changes === "function"
          ? { ...action, changes: action.changes(view) }
          : (action as Made);
      // The key makes the action once, however often it has to be sent.
      const head = { based_on: view.revision.number, key: newKey() };
      for (;;) {
        try {
          const revision = await answer<Revision>(send(run, head, made));
          queries.setQueryData<RunView>(keys.run(run), (old) => (old ? { ...old, revision } : old));
          // Undo can lead back to readings that were understood otherwise.
          if (revision.readings !== view.revision.readings)
            await queries.refetchQueries({ queryKey: keys.run(run) });
          queries.invalidateQueries({ queryKey: ["study"] });
          setWaiting(null);
          return;
        } catch (error) {
          if (error instanceof ProblemError && error.passing) {
            setWaiting(error.problem);
            await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
            continue;
          }
          setWaiting(null);
          const problem = problemOf(error);
          if (problem.kind === "stale") setStale({ action, problem });
          else toast.error(`${problem.title} ${problem.detail}`);
          return;
        }
      }
    },
    [queries, run],
  );

  const act = useCallback(
    (action: Action) => {
      busy.current += 1;
      // What goes wrong in the page itself is said, too; the next action is still made.
      queue.current = queue.current
        .then(() => perform(action))
        .catch((error) => {
          setWaiting(null);
          toast.error(`That was not saved: ${error instanceof Error ? error.message : String(error)}`);
        })
        .finally(() => {
          busy.current -= 1;
        });
    },
    [perform],
  );

  const settle = useCallback(
    async (again: boolean) => {
      const action = stale?.action;
      setStale(null);
      await queries.refetchQueries({ queryKey: keys.run(run) });
      if (again && action) act(action);
    },
    [act, queries, run, stale],
  );

  return { act, busy, waiting, stale, settle };
}

function send(run: number, head: Pick<Save, "based_on" | "key">, action: Made) {
  const params = { path: { id: run } };
  switch (action.kind) {
    case "change":
      return api.POST("/api/runs/{id}/changes", { params, body: { ...head, changes: action.changes } });
    case "restore":
      return api.POST("/api/runs/{id}/revisions/{number}/restore", {
        params: { path: { id: run, number: action.number } },
        body: head,
      });
    case "undo":
      return api.POST("/api/runs/{id}/undo", { params, body: head });
    case "redo":
      return api.POST("/api/runs/{id}/redo", { params, body: head });
  }
}
