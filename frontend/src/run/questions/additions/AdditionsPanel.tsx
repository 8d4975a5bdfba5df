/* The choice of the interval of standard additions. */
import { Pick } from "../../../ui/Choice";
import { INTERVALS, Row, useStep } from "../../working/fields";

export function AdditionsPanel() {
  const { step, set } = useStep("additions");
  return (
    <Row label="The confidence level is">
      <Pick
        label="Level of the interval"
        value={String(step.level ?? 0.95) as "0.95"}
        options={INTERVALS}
        onChange={(level) => set({ level: Number(level) }, `Interval: ${level}`)}
      />
    </Row>
  );
}
