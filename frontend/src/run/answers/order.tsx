/* Which rows of the answers are shown, and in which order. */
import type { AnswerTable } from "../../api/schema";
import { columnOf, sortKey } from "./table";

/** The id of a column, empty for the name; null as laid out. */
export interface Order {
  by: string | null;
  down: boolean;
}

const NAMES = new Intl.Collator("en", { numeric: true });

/** Places of the rows that hold every word, in the order asked for; those without a value last. */
export function arranged(table: AnswerTable, wanted: string, order: Order): readonly number[] {
  const rows = table.rows ?? [];
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const kept = rows.flatMap((row, at) => {
    const text = `${row.name} ${row.role} ${row.remarks?.map((r) => r.short).join(" ")}`.toLowerCase();
    return words.every((word) => text.includes(word)) ? [at] : [];
  });
  if (order.by === null) return kept;
  const column = columnOf(table, order.by);
  const key = (at: number) => (column ? sortKey(column, at) : rows[at]!.name);
  const sign = order.down ? -1 : 1;
  return kept.sort((a, b) => {
    const [one, other] = [key(a), key(b)];
    if (one === null || other === null) return one === other ? 0 : one === null ? 1 : -1;
    return sign * (typeof one === "string" ? NAMES.compare(one, String(other)) : one - Number(other));
  });
}

export function sortOf(order: Order, id: string): "ascending" | "descending" | "none" {
  return order.by !== id ? "none" : order.down ? "descending" : "ascending";
}

interface Props {
  id: string;
  name: string;
  order: Order;
  onOrder: (order: Order) => void;
}

/** Rising, then falling, then as laid out. */
export function SortButton({ id, name, order, onOrder }: Props) {
  const next =
    order.by !== id
      ? { by: id, down: false }
      : order.down
        ? { by: null, down: false }
        : { by: id, down: true };
  return (
    <button type="button" className="hover:text-ink" onClick={() => onOrder(next)}>
      {name}
      {order.by === id && (order.down ? " ↓" : " ↑")}
    </button>
  );
}
