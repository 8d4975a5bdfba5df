/* The choices of combining replicates, and the readings that stand out among theirs. */
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";
import { CENTERS, NumberField, PickRow, Row, useStep } from "./fields";

/** Readings that a test points at among their replicates; each is excluded, for that reason, by one click. */
function Suspects() {
  const { view, readings, excluded, act } = useOpenRun();
  const { groups } = view.revision.layout;
  const found = view.revision.outcome.readings.filter((each) => each.suspect && !excluded.has(each.id));
  if (found.length === 0) return null;
  return (
    <ul aria-label="Outlying readings" className="mt-1 border-t border-rule">
      {found.slice(0, 8).map((each) => {
        const group = groups.find((one) => one.readings.includes(each.id))!;
        const name = `${group.name} reading ${group.readings.indexOf(each.id) + 1}`;
        return (
          <li key={each.id} className="border-b border-rule/70 py-1 text-md">
            <b>{name}</b> ({readings.get(each.id)?.text}) {each.suspect}.{" "}
            <Button
              look="text"
              className="text-sm"
              onClick={() =>
                act({
                  kind: "change",
                  changes: [{ kind: "exclude", readings: [each.id], reason: each.suspect! }],
                  words: `Exclude ${name}: ${each.suspect}`,
                })
              }
            >
              Exclude for this reason
            </Button>
          </li>
        );
      })}
      {found.length > 8 && <li className="py-1 text-sm text-graphite">and {found.length - 8} more</li>}
    </ul>
  );
}

export function ReplicatesPanel() {
  const { step, set } = useStep("replicates");
  return (
    <>
      <PickRow
        says="Replicates are combined by their"
        label="Combine replicates by"
        value={step.combine ?? "mean"}
        options={[
          ...CENTERS,
          { value: "geometric", text: "geometric mean" },
          { value: "each", text: "no mean: each on its own" },
        ]}
        onChange={(combine) => set({ combine }, `Replicates: ${combine}`)}
      />
      <Row label="They disagree from a CV of">
        <NumberField
          key={step.cv_limit}
          label="CV from which replicates disagree, in percent"
          value={+(100 * (step.cv_limit ?? 0.1)).toPrecision(4)}
          fits={(value) => value > 0 && value <= 1000}
          need="Type a percentage above 0, such as 10."
          onCommit={(value) => set({ cv_limit: value / 100 }, `Replicates: CV up to ${value} %`)}
        />
        %
      </Row>
      <Suspects />
    </>
  );
}
