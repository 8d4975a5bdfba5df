/* The way back to what was understood of the readings, to correct it; and to the run they were handed on from. */
import { Link } from "react-router";
import { useOpenRun } from "../state/open";

const LOOK = "text-sm text-permanganate hover:underline";

export function IntakeLink() {
  const { run } = useOpenRun().view;
  return (
    <>
      <Link
        to={`/runs/${run.id}/intake`}
        title="Correct what was understood of the readings"
        className={LOOK}
      >
        Intake…
      </Link>
      {run.came_from && (
        <Link
          to={`/runs/${run.came_from.id}`}
          title={`Back to “${run.came_from.title}”, which these were read from`}
          className={LOOK}
        >
          ← Scans
        </Link>
      )}
    </>
  );
}
