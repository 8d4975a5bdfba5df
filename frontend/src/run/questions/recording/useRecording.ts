/* The recording as it is drawn: channels, stretches and marks. */
import { useOpenRun } from "../../state/open";

export function useRecording() {
  const { part } = useOpenRun().view.revision.outcome;
  return part.kind === "recording" ? part : null;
}
