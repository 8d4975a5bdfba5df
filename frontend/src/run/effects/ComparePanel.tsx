/* Which series the others are compared with, of curves and of counts alike. */
import { Pick } from "../../ui/Choice";
import { useOpenRun } from "../state/open";
import { ON_OFF, Row, useStep } from "../working/fields";

export function ComparePanel({ kind }: { kind: "compare" | "compare_lethal" }) {
  const { view } = useOpenRun();
  const { step, set } = useStep(kind);
  const series = (view.revision.outcome.answers.rows ?? []).map((row) => row.series ?? "");
  return (
    <>
      {series.length > 1 && (
        <Row label="The others are compared with">
          <Pick
            label="Compared with"
            value={step.reference || series[0]!}
            options={series.map((name) => ({ value: name, text: name || "All doses" }))}
            onChange={(reference) => set({ reference }, `Compare: against ${reference}`)}
          />
        </Row>
      )}
      <Row label="This step is">
        <Pick
          label="Compare step"
          value={step.on ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ on: on === "on" }, `Compare: ${on}`)}
        />
      </Row>
    </>
  );
}
