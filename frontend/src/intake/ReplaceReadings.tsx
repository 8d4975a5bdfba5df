/* Other readings in the place of a run's: what does not fit its layout is said before anything is computed. */
import { useParams } from "react-router";
import { useRun } from "../api/hooks";
import { Pending } from "../ui/Message";
import { NewRun } from "./NewRun";

export function ReplaceReadings() {
  const run = Number(useParams().run);
  const { data, error, refetch } = useRun(run);
  if (!data) return <Pending failure={error} onRetry={refetch} />;
  const { study_id, title } = data.run;
  return <NewRun instead={{ study: study_id, run, title, revision: data.revision.number }} />;
}
