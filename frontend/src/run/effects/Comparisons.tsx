/* What comparing the series says, below their answers. */
import { Button } from "../../ui/Button";
import { Rich } from "../../ui/Rich";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";

export function Comparisons() {
  const { part } = useOpenRun().view.revision.outcome;
  const { showNumber } = useSelection();
  const comparisons = "comparisons" in part ? (part.comparisons ?? []) : [];
  if (comparisons.length === 0) return null;
  return (
    <ul aria-label="Comparisons" className="mt-2 flex flex-col gap-1.5">
      {comparisons.map((each) => (
        <li key={each.name} className="rounded-lg border border-rule bg-chalk px-3 py-2">
          <Rich text={each.text} />{" "}
          {each.working && (
            <Button
              look="text"
              onClick={() => showNumber({ id: each.working!, title: `${each.name} and ${each.reference}` })}
            >
              Show working
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
