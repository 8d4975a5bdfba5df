/* How a check, a step or a run stands: a dot whose shape differs as well as its color. */
import type { State } from "../api/schema";

const WORDS: Record<State, string> = { pass: "passes", look: "look at this", fail: "fails" };
const COLORS: Record<State, string> = {
  pass: "var(--color-malachite)",
  look: "var(--color-iodine)",
  fail: "var(--color-cinnabar)",
};

export function StateDot({ state, size = 10 }: { state: State; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="-5 -5 10 10"
      role="img"
      aria-label={WORDS[state]}
      className="shrink-0"
    >
      {state === "pass" && <circle r={4} fill={COLORS.pass} />}
      {state === "look" && <path d="M0 -4.600L4.600 3.800H-4.600Z" fill={COLORS.look} />}
      {state === "fail" && <rect x={-4} y={-4} width={8} height={8} fill={COLORS.fail} />}
    </svg>
  );
}

export function StateBadge({ state, children }: { state: State; children: string }) {
  const tint = {
    pass: "bg-malachite-tint text-malachite",
    look: "bg-iodine-tint text-iodine",
    fail: "bg-cinnabar-tint text-cinnabar",
  }[state];
  return <span className={`rounded-full px-2.5 py-0.5 text-sm whitespace-nowrap ${tint}`}>{children}</span>;
}
