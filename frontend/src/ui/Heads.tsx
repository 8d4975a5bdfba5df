/* The headings of a plain table. */
interface Heading {
  /** Empty where the column needs no word; `label` then says what it is. */
  text: string;
  label?: string;
  right?: boolean;
  /** Of its cell: a width, room beside it. */
  className?: string;
}

export function Heads({ of }: { of: readonly Heading[] }) {
  return (
    <thead>
      <tr className="border-b border-rule text-left text-sm text-graphite">
        {of.map(({ text, label, right, className = "" }) => (
          <th
            key={text || label}
            scope="col"
            aria-label={text ? undefined : label}
            className={`py-1 font-normal ${right ? "text-right" : ""} ${className}`}
          >
            {text}
          </th>
        ))}
      </tr>
    </thead>
  );
}
