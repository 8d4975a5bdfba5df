/* Where everything stands on the figure: its scales, its edges, and the strip of residuals below. */
import { extent } from "d3-array";
import { type ScaleLinear, scaleLinear } from "d3-scale";
import type { Curve, Point } from "../../api/schema";
import type { XScale } from "../../plot/scales";
import { type Residuals, residualOf } from "./choices";
import { type Limits, scalesOf, within } from "./limits";

const BELOW = 44;
const STRIP = 62;
const GAP = 16;
const LEAST = 230; // px of height from which there is room for the strip
const FLATTENED = 4; // times the residuals of the curve from which those left out would flatten them
export const LEFT = 62;
export const RIGHT = 14;
export const TOP = 12;

export interface Strip {
  top: number;
  r: ScaleLinear<number, number>;
  residual: (point: Point) => number;
  /** Beyond which a residual is an arrow at the edge. */
  reach: number;
}

export interface Plot {
  width: number;
  height: number;
  x: XScale;
  y: ScaleLinear<number, number>;
  log: boolean;
  /** Where the curve's own axes end, and where the x axis stands. */
  bottom: number;
  floor: number;
  strip: Strip | null;
  shown: (at: { x: number; y: number }) => boolean;
}

interface Asked {
  width: number;
  height: number;
  curve: Curve;
  curves: readonly Curve[];
  limits: Limits;
  log: boolean;
  residuals: Residuals | null;
  /** Percentages that stand at equal distances, in place of a linear y axis. */
  ruler: readonly number[];
  fromZero: boolean;
}

export function plotOf({
  width,
  height,
  curve,
  curves,
  limits,
  log,
  residuals,
  ruler,
  fromZero,
}: Asked): Plot {
  const left = curve.points.some((point) => point.residual != null); // what is read off a table leaves none
  const strips = residuals !== null && left && height > LEAST;
  const bottom = height - BELOW - (strips ? STRIP + GAP : 0);
  const top = bottom + GAP + 6;
  const floor = strips ? top + STRIP - 6 : bottom;
  const scales = scalesOf(curves, limits, log, [LEFT, width - RIGHT], [bottom, TOP], ruler, fromZero);
  const strip = strips ? stripOf(curve, residuals, top, floor) : null;
  const shown = (at: { x: number; y: number }) => within(at.x, limits.x) && within(at.y, limits.y);
  return { width, height, ...scales, log, bottom, floor, strip, shown };
}

function stripOf(curve: Curve, kind: Residuals, top: number, floor: number): Strip {
  const residual = (point: Point) => residualOf(point, kind, curve.rmse ?? null);
  const most = (points: readonly Point[]) => {
    const [low = 0, high = 0] = extent(points.flatMap((p) => (p.residual == null ? [] : [residual(p)])));
    return Math.max(Math.abs(low), Math.abs(high));
  };
  const usual = most(curve.points.filter((point) => point.state === "used")) || 1;
  // What is left out is shown where it is, unless that would flatten all the others: then an arrow says so.
  const whole = most(curve.points);
  const reach = 1.15 * (whole <= FLATTENED * usual ? Math.max(whole, usual) : usual);
  return { top, r: scaleLinear([-reach, reach], [floor, top]).clamp(true), residual, reach };
}
