/* What a version of a method is: a draft, in use, retired. */
import type { Version } from "../api/schema";

const WORDS: Record<Version["state"], string> = { draft: "draft", use: "in use", retired: "retired" };

export function StateMark({ number, state }: { number?: number; state: Version["state"] }) {
  return (
    <span
      className={`rounded-full border border-dashed px-2.5 py-0.5 text-sm whitespace-nowrap ${state === "use" ? "border-malachite text-malachite" : "border-graphite text-graphite"}`}
    >
      {number !== undefined && `version ${number}, `}
      {WORDS[state]}
    </span>
  );
}
