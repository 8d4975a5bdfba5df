/* Fields for what is typed of an axis: several places, spans or ratios in one line, or one window. */
import { DraftField } from "../../working/fields";
import { readSpans, type Span, spansText } from "./typed";

const WIDE = "w-[190px]";

interface ListProps<T> {
  label: string;
  given: string;
  read: (text: string) => T[] | null;
  need: string;
  onCommit: (values: T[]) => void;
}

/** Several things typed in one line, told when they are others than before. */
export function ListField<T>({ given, onCommit, ...field }: ListProps<T>) {
  return (
    <DraftField
      key={given}
      {...field}
      given={given}
      onCommit={(values) => JSON.stringify(values) !== JSON.stringify(field.read(given)) && onCommit(values)}
      className={WIDE}
    />
  );
}

/** A window of the axis; empty for all of it. */
export function WindowField({
  label,
  window,
  onCommit,
}: {
  label: string;
  window: Partial<Span> | null;
  onCommit: (window: Span) => void;
}) {
  const open = window == null || (window.lower == null && window.upper == null);
  return (
    <ListField
      label={label}
      given={open ? "" : spansText([window])}
      read={(text) => {
        const found = readSpans(text);
        return found && found.length <= 1 ? found : null;
      }}
      need="Type two numbers, such as 480–620, or nothing for all."
      onCommit={(spans) => onCommit(spans[0] ?? { lower: null, upper: null })}
    />
  );
}
