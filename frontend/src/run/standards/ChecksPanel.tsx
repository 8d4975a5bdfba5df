/* The thresholds of the checks of a standard curve. */
import { CheckList } from "../working/CheckList";
import { NumberField, Row, useStep } from "../working/fields";

const THRESHOLDS = [
  { key: "standard_recovery", text: "Standards within" },
  { key: "lowest_recovery", text: "The lowest within" },
  { key: "qc_recovery", text: "QC within" },
  { key: "spike_recovery", text: "Additions within" },
] as const;

export function ChecksPanel() {
  const { step, set } = useStep("checks");
  return (
    <>
      <div className="mb-2 flex flex-col">
        {THRESHOLDS.map(({ key, text }) => (
          <Row key={key} label={text}>
            <NumberField
              key={step[key]}
              label={`${text} in percent`}
              value={+(100 * (step[key] ?? 0.1)).toPrecision(4)}
              fits={(value) => value > 0 && value <= 1000}
              need="Type a percentage above 0, such as 15."
              onCommit={(value) => set({ [key]: value / 100 }, `Checks: ${text} ${value} %`)}
            />
            %
          </Row>
        ))}
      </div>
      <CheckList />
    </>
  );
}
