/* Empty, loading and error states: a sentence, and the way out. */
import type { ReactNode } from "react";
import { problemOf } from "../api/client";
import { Button } from "./Button";

export function Message({
  title,
  detail,
  children,
}: {
  title: string;
  detail?: string;
  children?: ReactNode;
}) {
  return (
    <div className="m-auto flex max-w-[460px] flex-col items-center gap-2 p-8 text-center">
      <h2 className="text-lg">{title}</h2>
      {detail && <p className="text-graphite">{detail}</p>}
      {children}
    </div>
  );
}

/** Loading, or why it failed. A passing failure (the database restarting) says that it is being tried again. */
export function Pending({ failure, onRetry }: { failure: unknown; onRetry: () => void }) {
  if (!failure) {
    return (
      <p role="status" className="m-auto p-8 text-graphite">
        Loading …
      </p>
    );
  }
  const problem = problemOf(failure);
  return (
    <div role="alert" className="m-auto">
      <Message title={problem.title} detail={problem.detail}>
        <Button onClick={onRetry}>Try again</Button>
      </Message>
    </div>
  );
}
