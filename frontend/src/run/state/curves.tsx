/* The curves of a run, and the one that is looked at. */
import { createContext, useContext, useMemo, useState } from "react";
import { useWholeCurve } from "../../api/hooks";
import type { Curve, Group, RunView } from "../../api/schema";

export interface Curves {
  /** The curve looked at, where there are several; and all of them. */
  curve: Curve;
  curves: readonly Curve[];
  chooseCurve: (key: string) => void;
}

export const CurvesContext = createContext<Curves | null>(null);

export function useCurves(): Curves {
  const curves = useContext(CurvesContext);
  if (!curves) throw new Error("This part belongs inside a run.");
  return curves;
}

export function useCurvesOf(view: RunView): Curves {
  const [key, chooseCurve] = useState("");
  const drawn = view.revision.outcome.curves;
  const brief = drawn.find((each) => each.key === key) ?? drawn[0]!;
  const curve = useWholeCurve(view.run.id, view.revision.number, brief);
  return useMemo(() => {
    const curves = curve === brief ? drawn : drawn.map((each) => (each === brief ? curve : each));
    return { curve, curves, chooseCurve };
  }, [curve, brief, drawn]);
}

/** Whether a group is on a curve; one made in brief has no points yet, so the series of its answer tells. */
export function isOnCurve(view: RunView, curve: Curve): (group: Group | undefined) => boolean {
  const { reading } = curve;
  if (reading != null) return (group) => group?.readings.includes(reading) ?? false;
  const series = seriesOf(view, curve);
  const points = new Set([...curve.points, ...curve.samples].map((point) => point.group));
  return (group) =>
    group !== undefined && (series === undefined ? points.has(group.id) : group.series === series);
}

/** The curve that a group is on; of several that are courses, that of the reading. */
export function curveOf(view: RunView, group: Group, reading: number | null): Curve | undefined {
  const { curves } = view.revision.outcome;
  const own = curves.find((each) => each.reading != null && each.reading === reading);
  return own ?? curves.find((each) => isOnCurve(view, each)(group));
}

/** The series that a curve is of, where answers are of series. */
export function seriesOf(view: RunView, curve: Curve): string | undefined {
  const rows = view.revision.outcome.answers.rows ?? [];
  return rows.find((row) => row.series != null && row.curve === curve.key)?.series ?? undefined;
}
