/* What the panels of dose runs have in common: effects in percent. */
import { DraftField, Row } from "../working/fields";

function levelsOf(text: string): number[] | null {
  const levels = text
    .split(/[\s;]+|,\s*/)
    .filter(Boolean)
    .map(Number);
  const good = levels.length > 0 && levels.length <= 6 && levels.every((each) => each > 0 && each < 100);
  return good ? levels : null;
}

/** One to six effects in percent, typed; the first leads. */
export function LevelsField({
  levels,
  onCommit,
}: {
  levels: readonly number[];
  onCommit: (levels: number[]) => void;
}) {
  return (
    <Row label="Effects">
      <DraftField
        label="Effects in percent"
        given={levels.join(", ")}
        read={levelsOf}
        need="One to six numbers between 0 and 100, such as 50, 10, 90."
        onCommit={(next) => next.join() !== levels.join() && onCommit(next)}
        className="w-[110px]"
      />
      %
    </Row>
  );
}
