/* A role's mark: its shape and its color together, so that color never carries it alone. */
import type { Role } from "../api/schema";

export const ROLE_NAMES: Record<Role, string> = {
  standard: "Standard",
  blank: "Blank",
  sample: "Sample",
  qc: "QC",
  dose: "Dose",
  vehicle: "Vehicle",
  full: "Full effect",
  unused: "Not used",
};
export const ROLES = Object.keys(ROLE_NAMES) as Role[];
const OF_QUESTION: Record<string, Role[]> = {
  dose: ["dose", "vehicle", "full", "blank", "unused"],
  mortality: ["dose", "vehicle", "unused"],
};

/** What a role is called in a run that is asked this: counts have controls, whatever these were given. */
export function roleName(role: Role, question: string | undefined): string {
  return role === "vehicle" && question === "mortality" ? "Control" : ROLE_NAMES[role];
}

/** The roles a reading can have in a run that is asked this. */
export function rolesOf(question: string | undefined): Role[] {
  return OF_QUESTION[question ?? ""] ?? ["standard", "blank", "sample", "qc", "unused"];
}

export const ROLE_COLORS: Record<Role, string> = {
  standard: "var(--color-cupric)",
  blank: "var(--color-graphite)",
  sample: "var(--color-permanganate)",
  qc: "var(--color-iodine)",
  dose: "var(--color-cupric)",
  vehicle: "var(--color-malachite)",
  full: "var(--color-cinnabar)",
  unused: "var(--color-graphite)",
};

/** Outline of a role's mark, centred on 0,0, reaching `r` from it. */
export function markPath(role: Role, r: number): string {
  switch (role) {
    case "standard":
      return `M0 ${-r}L${r} ${r * 0.8}H${-r}Z`;
    case "qc":
      return `M0 ${-r * 1.15}L${r * 1.15} 0L0 ${r * 1.15}L${-r * 1.15} 0Z`;
    case "dose":
      return `M${-r * 0.9} ${-r * 0.9}H${r * 0.9}V${r * 0.9}H${-r * 0.9}Z`;
    case "vehicle":
      return `M${-r} ${r * 0.7}L0 ${-r * 0.5}L${r} ${r * 0.7}L${r} ${r}H${-r}Z`;
    case "full":
      return `M${-r} ${-r}H${r}L0 ${r}Z`;
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
