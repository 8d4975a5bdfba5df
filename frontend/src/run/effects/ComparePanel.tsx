/* Which series, or which of the answers, the others are compared with. */
import { useOpenRun } from "../state/open";
import { ON_OFF, PickRow, useStep } from "../working/fields";

interface CompareProps {
  kind: "compare" | "compare_lethal" | "compare_relations" | "compare_rates";
  /** What can be compared with; the series of the answers when it is not given. */
  names?: readonly string[];
  /** What a series without a name is called. */
  unnamed?: string;
}

export function ComparePanel({ kind, names, unnamed = "All doses" }: CompareProps) {
  const { view } = useOpenRun();
  const { step, set } = useStep(kind);
  const known = names ?? (view.revision.outcome.answers.rows ?? []).map((row) => row.series ?? "");
  return (
    <>
      {known.length > 1 && (
        <PickRow
          says="The others are compared with"
          label="Compared with"
          value={step.reference || known[0]!}
          options={known.map((name) => ({ value: name, text: name || unnamed }))}
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
