/* Which plate is shown: the one a person turns to, or that of what is selected or looked at elsewhere. */
import { useEffect, useMemo, useState } from "react";
import { isOnCurve, useCurves } from "../state/curves";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";

export function usePlateInView(): [number, (plate: number) => void] {
  const { view, groups, readings } = useOpenRun();
  const { selection } = useSelection();
  const { curve, curves } = useCurves();
  const [plate, setPlate] = useState(0);
  const selected = selection?.reading ?? groups.get(selection?.group ?? "")?.readings[0];
  const its = selected === undefined ? undefined : readings.get(selected)?.plate;
  useEffect(() => {
    if (its != null) setPlate(its);
  }, [its]);
  // The plates of the curve looked at, unless some of its wells are seen already. As a text, that is told from others.
  const plates = useMemo(() => {
    const own = view.revision.layout.groups.filter(isOnCurve(view, curve)).flatMap((group) => group.readings);
    return curves.length < 2 ? "" : [...new Set(own.map((id) => readings.get(id)?.plate ?? 0))].join();
  }, [view, curve, curves.length, readings]);
  useEffect(() => {
    if (plates !== "")
      setPlate((now) => (plates.split(",").includes(`${now}`) ? now : Number.parseInt(plates, 10)));
  }, [plates]);
  return [plate, setPlate];
}
