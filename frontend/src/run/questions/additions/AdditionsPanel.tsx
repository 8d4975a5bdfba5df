/* The choice of the interval of standard additions. */
import { INTERVALS, PickRow, useStep } from "../../working/fields";

export function AdditionsPanel() {
  const { step, set } = useStep("additions");
  return (
    <PickRow
      says="The confidence level is"
      label="Level of the interval"
      value={String(step.level ?? 0.95) as "0.95"}
      options={INTERVALS}
      onChange={(level) => set({ level: Number(level) }, `Interval: ${level}`)}
    />
  );
}
