/* A role's mark: its shape and its color together, so that color never carries it alone. */
import { createContext, useContext } from "react";
import { roleTitle } from "../api/declared";
import type { Role } from "../api/schema";

export const ROLE_COLORS: Record<Role, string> = {
  standard: "var(--color-cupric)",
  blank: "var(--color-graphite)",
  sample: "var(--color-permanganate)",
  qc: "var(--color-iodine)",
  dose: "var(--color-cupric)",
  point: "var(--color-cupric)",
  vehicle: "var(--color-malachite)",
  full: "var(--color-cinnabar)",
  unused: "var(--color-graphite)",
};

/** The ground of a well of that role. */
export const ROLE_TINTS: Record<Role, string> = {
  standard: "var(--color-cupric-tint)",
  blank: "var(--color-paper)",
  sample: "var(--color-permanganate-tint)",
  qc: "var(--color-iodine-tint)",
  dose: "var(--color-cupric-tint)",
  point: "var(--color-cupric-tint)",
  vehicle: "var(--color-malachite-tint)",
  full: "var(--color-cinnabar-tint)",
  unused: "var(--color-paper)",
};

/** Outline of a role's mark, centered on 0,0, reaching `r` from it. */
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

/** The question that is asked, which may have words of its own for a role. */
export const Asked = createContext<string | undefined>(undefined);

export function RoleMark({ role, size = 11 }: { role: Role; size?: number }) {
  const title = roleTitle(role, useContext(Asked));
  const hollow = role === "blank" || role === "unused";
  return (
    <svg width={size} height={size} viewBox="-6 -6 12 12" role="img" aria-label={title} className="shrink-0">
      <path
        d={markPath(role, 4.4)}
        fill={hollow ? "none" : ROLE_COLORS[role]}
        stroke={ROLE_COLORS[role]}
        strokeWidth={1.5}
      />
    </svg>
  );
}
