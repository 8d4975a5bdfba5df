/* A role's mark: its shape and its color together, so that color never carries it alone. */
import type { Role } from "../api/schema";

export const ROLE_NAMES: Record<Role, string> = {
  standard: "Standard",
  blank: "Blank",
  sample: "Sample",
  qc: "QC",
  unused: "Not used",
};
export const ROLES = Object.keys(ROLE_NAMES) as Role[];

export const ROLE_COLORS: Record<Role, string> = {
  standard: "var(--color-cupric)",
  blank: "var(--color-graphite)",
  sample: "var(--color-permanganate)",
  qc: "var(--color-iodine)",
  unused: "var(--color-graphite)",
};

/** Outline of a role's mark, centred on 0,0, reaching `r` from it. */
export function markPath(role: Role, r: number): string {
  switch (role) {
    case "standard":
      return `M0 ${-r}L${r} ${r * 0.8}H${-r}Z`;
    case "qc":
      return `M0 ${-r * 1.15}L${r * 1.15} 0L0 ${r * 1.15}L${-r * 1.15} 0Z`;
    case "unused":
      return `M${-r} 0H${r}`;
    default:
      return `M${-r} 0a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`;
  }
}

export function RoleMark({ role, size = 11 }: { role: Role; size?: number }) {
  const hollow = role === "blank" || role === "unused";
  return (
    <svg
      width={size}
      height={size}
      viewBox="-6 -6 12 12"
      role="img"
      aria-label={ROLE_NAMES[role]}
      className="shrink-0"
    >
      <path
        d={markPath(role, 4.4)}
        fill={hollow ? "none" : ROLE_COLORS[role]}
        stroke={ROLE_COLORS[role]}
        strokeWidth={1.5}
      />
    </svg>
  );
}
