/* How residuals and bands are chosen, and what they are called on the figure. */
import type { Point } from "../../api/schema";

export type Residuals = "raw" | "percent" | "standardized";
export type Band = "curve" | "reading";
export const BANDS = [
  { value: "curve", text: "of curve" },
  { value: "reading", text: "of reading" },
] as const;
export const RESIDUALS = [
  { value: "raw", text: "raw" },
  { value: "percent", text: "%" },
  { value: "standardized", text: "standardized" },
] as const;
export const RESIDUAL_LABELS: Record<Residuals, string> = {
  raw: "residual",
  percent: "residual / %",
  standardized: "residual / RMSE",
};
export const AXES = [
  { value: "log", text: "log x" },
  { value: "linear", text: "linear x" },
] as const;

/** How far a point is from the curve: as it is, in percent of the curve, or in RMSEs. */
export function residualOf(point: Point, kind: Residuals, rmse: number | null): number {
  const raw = point.residual ?? 0;
  if (kind === "percent") return point.y === raw ? 0 : (100 * raw) / Math.abs(point.y - raw);
  return kind === "standardized" && rmse ? raw / rmse : raw;
}

export type Bars = "sd" | "sem" | "interval" | "none";
export const BARS = [
  { value: "sd", text: "SD" },
  { value: "sem", text: "SEM" },
  { value: "interval", text: "95 %" },
  { value: "none", text: "none" },
] as const;
/** Curves of several series, told apart by color, dash and the shape of their means. */
export const SERIES = ["cupric", "iodine", "malachite", "permanganate", "cinnabar", "graphite"].map(
  (name) => `var(--color-${name})`,
);
