/* The frame of what is seen before anybody is signed in. */
import type { FormEvent, ReactNode } from "react";
import type { ProblemError } from "../api/client";

interface Props {
  title: string;
  detail?: string;
  problem: ProblemError["problem"] | null;
  onSubmit: () => void;
  children: ReactNode;
}

export function Door({ title, detail, problem, onSubmit, children }: Props) {
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onSubmit();
  };
  return (
    <main className="flex h-full flex-col items-center overflow-y-auto bg-paper pt-[12vh]">
      <p className="mb-6 flex items-center gap-2 font-serif text-[28px] font-bold">
        <img src="/drop.svg" alt="" className="size-8" />
        Dosis
      </p>
      <form
        onSubmit={submit}
        className="flex w-[400px] flex-col gap-3 rounded-lg border border-rule bg-chalk p-6"
        aria-label={title}
      >
        <h1 className="text-xl">{title}</h1>
        {detail && <p className="text-graphite">{detail}</p>}
        {children}
        {problem && (
          <p role="alert" className="text-cinnabar">
            {problem.detail || problem.title}
          </p>
        )}
      </form>
    </main>
  );
}
