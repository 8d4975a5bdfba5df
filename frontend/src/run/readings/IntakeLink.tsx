/* The way back to what was understood of the readings, to correct it. */
import { Link } from "react-router";
import { useOpenRun } from "../state/open";

export function IntakeLink() {
  const { run } = useOpenRun().view;
  return (
    <Link
      to={`/runs/${run.id}/intake`}
      title="Correct what was understood of the readings"
      className="text-sm text-permanganate hover:underline"
    >
      Intake…
    </Link>
  );
}
