/* The scans by name beside their picture, in their colors; of very many the ramp of colors and its ends. */
import { Pick } from "../../../ui/Choice";
import { useCurves } from "../../state/curves";
import { RAMP, sequence } from "./colors";
import { useScanMarks } from "./lines";

const LISTED = 60; // scans up to which each has its line
export const LEGEND = 132; // px

export function Legend() {
  const { curve, chooseCurve } = useCurves();
  const part = useScanMarks();
  const marks = part?.scans ?? [];
  if (marks.length < 2) return null;
  const order = [...marks].sort((a, b) => a.place - b.place);
  if (marks.length > LISTED)
    return (
      <div style={{ width: LEGEND }} className="flex shrink-0 flex-col gap-1 pl-2 text-sm">
        <span className="text-graphite">{marks.length.toLocaleString("en-GB")} scans</span>
        <span>{order[0]!.key}</span>
        <span aria-hidden="true" className="h-24 w-4 rounded-sm" style={{ background: RAMP }} />
        <span>{order.at(-1)!.key}</span>
        <Pick
          label="Scan looked at"
          value={curve.key ?? ""}
          options={marks.map((each) => ({ value: each.key, text: each.key }))}
          onChange={chooseCurve}
          quiet
        />
      </div>
    );
  return (
    <ul
      aria-label="Scans"
      style={{ width: LEGEND }}
      className="shrink-0 self-stretch overflow-y-auto pl-2 text-sm"
    >
      {marks.map((each) => (
        <li key={each.key}>
          <button
            type="button"
            aria-pressed={each.key === curve.key}
            onClick={() => chooseCurve(each.key)}
            title={each.key}
            className={`flex w-full items-center gap-1.5 rounded px-1 text-left hover:bg-permanganate-tint ${each.key === curve.key ? "font-semibold" : ""}`}
          >
            <svg width={18} height={8} aria-hidden="true" className="shrink-0">
              <path
                d="M0 4H18"
                stroke={sequence(each.place)}
                strokeWidth={each.key === curve.key ? 3.5 : 2}
                strokeDasharray={each.role === "standard" ? "4 2" : undefined}
              />
            </svg>
            <span className="truncate">{each.key}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
