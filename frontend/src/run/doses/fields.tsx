/* What the panels of dose runs have in common: effects in percent. */
import { useState } from "react";
import { Row } from "../working/fields";

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
