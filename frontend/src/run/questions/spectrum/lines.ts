/* The scans as lines, fetched for the axes and at the width they are seen in. */
import { useMemo } from "react";
import { useScanLines } from "../../../api/hooks";
import type { Curve } from "../../../api/schema";
import type { Limits } from "../../figure/limits";
import { useOpenRun } from "../../state/open";
import { useSettled } from "../../state/useSettled";
import { sequence } from "./colors";
import type { DrawnScan } from "./ScanCanvas";

const PAUSE_MS = 120; // after which a zoom has settled
const NUMBERS = 240_000; // of all lines together that are fetched at once
const MOST = 1200; // points of one line

/** What is marked on the scans, in their order. */
export function useScanMarks() {
  const { part } = useOpenRun().view.revision.outcome;
  return part.kind === "spectrum" ? part : null;
}

/** Every scan with its color; as it stood before a step where that is named. */
export function useDrawnScans(limits: Limits, stage: string): { scans: DrawnScan[]; waiting: boolean } {
  const { view } = useOpenRun();
  const part = useScanMarks();
  const marks = part?.scans ?? [];
  const settled = useSettled(limits.x, PAUSE_MS);
  const points = Math.max(40, Math.min(MOST, Math.floor(NUMBERS / Math.max(marks.length, 1))));
  const { data, isPending } = useScanLines(view.run.id, view.revision.number, {
    points,
    ends: settled,
    stage,
  });
  const scans = useMemo(() => {
    const places = new Map(marks.map((each) => [each.key, each.place]));
    return (data?.courses ?? []).map((each) => ({ ...each, color: sequence(places.get(each.key) ?? 0) }));
  }, [data, marks]);
  return { scans, waiting: isPending };
}

/** The scans as curves that axes can be made for. */
export function asCurves(curves: readonly Curve[], scans: readonly DrawnScan[]): Curve[] {
  const base = curves[0]!;
  return scans.map((scan) => ({
    ...base,
    key: scan.key,
    points: [],
    means: [],
    line: {
      x: scan.x as number[],
      y: scan.y as number[],
      lower: [],
      upper: [],
      one_lower: [],
      one_upper: [],
    },
  }));
}
