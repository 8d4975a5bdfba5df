/* The thresholds of the checks of a relation. */
import { CheckList } from "../../working/CheckList";
import { NumberField, Row, useStep } from "../../working/fields";

export function RelationChecksPanel() {
  const { step, set } = useStep("relation_checks");
  return (
    <>
      <Row label="Degrees of freedom at least">
        <NumberField
          key={step.least}
          label="Degrees of freedom at least"
          value={step.least ?? 3}
          fits={(value) => Number.isInteger(value) && value >= 1 && value <= 100}
          need="Type a whole number from 1 to 100."
          onCommit={(least) => set({ least }, `Checks: ${least} degrees of freedom`)}
        />
      </Row>
      <Row label="Runs test from p">
        <NumberField
          key={`runs ${step.runs}`}
          label="Runs test passes from p"
          value={step.runs ?? 0.05}
          fits={(value) => value > 0 && value < 1}
          need="Type a number between 0 and 1, such as 0.05."
          onCommit={(runs) => set({ runs }, `Checks: runs test from p ${runs}`)}
        />
      </Row>
      <CheckList />
    </>
  );
}
