/* What the panels of dose runs have in common: a step and how to set it, effects in percent, levels of intervals. */
import { useState } from "react";
import { Row } from "../working/fields";
import { stepOf, useWorkspace } from "../workspace";

type Kind = Parameters<typeof stepOf>[1];

export function useStep<K extends Kind>(kind: K) {
  const { view, act } = useWorkspace();
  const step = stepOf(view, kind);
  const set = (change: Partial<typeof step>, words: string) =>
    act({ kind: "change", changes: [{ kind: "set_step", step: { ...step, ...change } }], words });
  return { step, set };
}

export const INTERVALS = [
  { value: "0.9", text: "90 %" },
  { value: "0.95", text: "95 %" },
  { value: "0.99", text: "99 %" },
] as const;

/** One to six effects in percent, typed; the first leads. */
export function LevelsField({
  levels,
  onCommit,
}: {
  levels: readonly number[];
  onCommit: (levels: number[]) => void;
}) {
  const [text, setText] = useState(levels.join(", "));
  const [wrong, setWrong] = useState(false);
  const commit = () => {
    const next = text
      .split(/[\s;]+|,\s*/)
      .filter(Boolean)
      .map(Number);
    const good = next.length > 0 && next.length <= 6 && next.every((each) => each > 0 && each < 100);
    setWrong(!good);
    if (good && next.join() !== levels.join()) onCommit(next);
  };
  return (
    <>
      <Row label="Effects">
        <input
          aria-label="Effects in percent"
          value={text}
          aria-invalid={wrong || undefined}
          onChange={(event) => setText(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => event.key === "Enter" && commit()}
          className="w-[110px] rounded-md border border-rule bg-chalk px-1.5"
        />
        %
      </Row>
      {wrong && (
        <p className="text-sm text-cinnabar">One to six numbers between 0 and 100, such as 50, 10, 90.</p>
      )}
    </>
  );
}
