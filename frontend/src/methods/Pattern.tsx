/* The plate of a method, small: which well is what. */
import { roleTitle } from "../api/declared";
import type { Role, SavedLayout } from "../api/schema";
import { rowLetters } from "../run/plate/geometry";
import { RoleMark } from "../ui/RoleMark";

const SIZE = 22;

function placeOf(well: string): [number, number] {
  const letters = well.match(/^[A-Z]+/)?.[0] ?? "A";
  const row = [...letters].reduce((sum, c) => sum * 26 + c.charCodeAt(0) - 64, 0) - 1;
  return [row, Number(well.slice(letters.length)) - 1];
}

export function Pattern({ layout, question }: { layout: SavedLayout; question: string }) {
  const roles = [...new Set(layout.wells.map((well) => well.role))];
  const size = layout.columns > 24 ? 11 : layout.columns > 12 ? 15 : SIZE;
  return (
    <div className="flex items-start gap-6">
      <svg
        width={layout.columns * size + 24}
        height={layout.rows * size + 20}
        role="img"
        aria-label={`Plate of ${layout.rows} × ${layout.columns} wells; ${roles.map((role) => `${layout.wells.filter((well) => well.role === role).length} ${roleTitle(role, question)}`).join(", ")}`}
      >
        {Array.from({ length: layout.columns }, (_, c) => (
          <text
            key={c}
            x={24 + (c + 0.5) * size}
            y={12}
            textAnchor="middle"
            fontSize={size > 14 ? 11 : 7}
            fill="var(--color-graphite)"
          >
            {c + 1}
          </text>
        ))}
        {Array.from({ length: layout.rows }, (_, r) => (
          <text
            key={r}
            x={18}
            y={18 + (r + 0.65) * size}
            textAnchor="end"
            fontSize={size > 14 ? 11 : 7}
            fill="var(--color-graphite)"
          >
            {rowLetters(r)}
          </text>
        ))}
        {layout.wells.map((well) => {
          const [row, column] = placeOf(well.well);
          return (
            <g key={well.well} transform={`translate(${24 + column * size},${18 + row * size})`}>
              <title>{`${well.well} ${well.name} ${well.level ?? ""} ${well.level == null ? "" : layout.level.unit}`}</title>
              <rect
                x={1.5}
                y={1.5}
                width={size - 3}
                height={size - 3}
                rx={size / 4}
                fill={COLORS[well.role]}
              />
            </g>
          );
        })}
      </svg>
      <ul className="text-sm">
        {roles.map((role) => (
          <li key={role} className="flex items-center gap-2 py-0.5">
            <span className="inline-block size-3 rounded-sm" style={{ background: COLORS[role] }} />
            <RoleMark role={role} /> {roleTitle(role, question)},{" "}
            {layout.wells.filter((well) => well.role === role).length} wells
          </li>
        ))}
      </ul>
    </div>
  );
}

const COLORS: Record<Role, string> = {
  standard: "var(--color-cupric)",
  dose: "var(--color-cupric)",
  point: "var(--color-cupric)",
  sample: "var(--color-permanganate)",
  qc: "var(--color-iodine)",
  blank: "var(--color-graphite)",
  vehicle: "var(--color-malachite)",
  full: "var(--color-cinnabar)",
  unused: "var(--color-rule)",
};
