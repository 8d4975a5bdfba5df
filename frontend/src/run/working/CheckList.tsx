/* What each check found, and what to do about it. */
import { GuideLink } from "../../app/guide";
import { Button } from "../../ui/Button";
import { StateDot } from "../../ui/StateDot";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";

export function CheckList() {
  const { view } = useOpenRun();
  const { showNumber } = useSelection();
  return (
    <ul>
      {view.revision.outcome.checks.map((check) => (
        <li key={check.id} className="border-b border-rule py-1.5 text-md last:border-0">
          <div className="flex items-center justify-between gap-2">
            <b className="flex-1">{check.title}</b>
            <GuideLink to={`check-${check.id}`} about={check.title} />
            <StateDot state={check.state} />
          </div>
          <div>{check.found}</div>
          <div className="text-sm text-graphite">
            Threshold {check.threshold}.{check.state !== "pass" && ` ${check.why}`}{" "}
            {check.working && (
              <Button
                look="text"
                className="text-sm"
                aria-label={`Working of ${check.title}`}
                onClick={() => showNumber({ id: check.working!, title: check.title })}
              >
                Show working
              </Button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}
