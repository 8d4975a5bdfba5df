/* Which series the others are compared with, of curves and of counts alike. */
import { useOpenRun } from "../state/open";
import { ON_OFF, PickRow, useStep } from "../working/fields";

export function ComparePanel({ kind }: { kind: "compare" | "compare_lethal" | "compare_relations" }) {
  const { view } = useOpenRun();
  const { step, set } = useStep(kind);
  const series = (view.revision.outcome.answers.rows ?? []).map((row) => row.series ?? "");
  return (
    <>
      {series.length > 1 && (
        <PickRow
          says="The others are compared with"
          label="Compared with"
          value={step.reference || series[0]!}
          options={series.map((name) => ({ value: name, text: name || "All doses" }))}
          onChange={(reference) => set({ reference }, `Compare: against ${reference}`)}
        />
      )}
      <PickRow
        says="This step is"
        label="Compare step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ on: on === "on" }, `Compare: ${on}`)}
      />
    </>
  );
}
