/* The verdict: the run in one line, with the state of its checks. */

import { StateBadge, StateDot } from "../ui/StateDot";
import { useOpenRun } from "./state/open";
import { useSelection } from "./state/selection";

export function VerdictLine() {
  const { view } = useOpenRun();
  const { select } = useSelection();
  const verdict = view.revision.outcome.verdict;
  const detail = verdict.detail.map((part) => part.text).join("");
  return (
    <div
      role="status"
      aria-label="Verdict"
      className="flex min-h-[38px] items-center gap-2.5 border-b border-rule bg-chalk px-4 py-1"
    >
      <StateDot state={verdict.state} size={12} />
      <p className="line-clamp-2 min-w-0 flex-1 leading-[1.35]" title={`${verdict.headline} ${detail}`}>
        <b className="mr-1.5">{verdict.headline}</b>
        {verdict.detail.map((part, i) =>
          part.group ? (
            <button
              type="button"
              key={i}
              className="underline decoration-permanganate underline-offset-2 hover:text-permanganate"
              onClick={() => select({ group: part.group!, reading: null })}
            >
              {part.text}
            </button>
          ) : (
            <span key={i}>{part.text}</span>
          ),
        )}
      </p>
      {verdict.passed > 0 && <StateBadge state="pass">{count(verdict.passed, "passes", "pass")}</StateBadge>}
      {verdict.to_look_at > 0 && <StateBadge state="look">{`${verdict.to_look_at} to look at`}</StateBadge>}
      {verdict.failed > 0 && <StateBadge state="fail">{count(verdict.failed, "fails", "fail")}</StateBadge>}
    </div>
  );
}

function count(n: number, one: string, several: string): string {
  return n === 1 ? `1 check ${one}` : `${n} checks ${several}`;
}
