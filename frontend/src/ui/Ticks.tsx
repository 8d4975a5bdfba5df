/* Several of a list, chosen by their boxes. */
import type { ReactNode } from "react";

interface Props<T> {
  legend?: string;
  options: readonly { value: T; text: ReactNode; more?: string }[];
  chosen: readonly T[];
  onChange: (chosen: T[]) => void;
  columns?: 1 | 2 | 3;
}

const COLUMNS = { 1: "grid-cols-1", 2: "grid-cols-2", 3: "grid-cols-3" };

export function Ticks<T extends string | number>({
  legend,
  options,
  chosen,
  onChange,
  columns = 2,
}: Props<T>) {
  return (
    <fieldset>
      {legend && <legend className="mb-1 text-graphite">{legend}</legend>}
      <div className={`grid max-h-[340px] gap-x-4 overflow-y-auto ${COLUMNS[columns]}`}>
        {options.map(({ value, text, more }) => (
          <label key={value} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={chosen.includes(value)}
              onChange={(event) =>
                onChange(event.target.checked ? [...chosen, value] : chosen.filter((each) => each !== value))
              }
            />
            <span className="truncate">{text}</span>
            {more && <span className="ml-auto text-graphite">{more}</span>}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
