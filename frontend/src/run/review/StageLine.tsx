/* Over a run that is no draft: why it stays as it is, and where it goes on. */
import { Lock } from "lucide-react";
import { may, useMe } from "../../people/me";
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";

const SAID = {
  "handed in": "This run is handed in and waits for its review. It stays as it is until then.",
  reviewed: "This run was reviewed and can be signed. It stays as it is.",
  signed: "This run is signed. It stays as it is; a change begins with a new draft.",
};

export function StageLine({ onOpen }: { onOpen: () => void }) {
  const { view } = useOpenRun();
  const { stage, follows } = view.run;
  const { data: me } = useMe();
  const draft = stage === undefined || stage === "draft";
  const looking = me !== undefined && !may(me, "work", view.run.study_id);
  if (draft && follows == null && !looking) return null;
  return (
    <div
      role="status"
      aria-label="Stage"
      className="flex items-center gap-2 border-b border-rule bg-rule/30 px-4 py-1.5"
    >
      {(!draft || looking) && <Lock size={15} aria-hidden />}
      <p className="min-w-0 flex-1">
        {draft && follows == null
          ? "You may look at this run; analysts of its study can change it."
          : draft
            ? `This draft follows revision ${follows}, which was signed and stays in the Ledger as it was.`
            : SAID[stage]}
      </p>
      <Button look="text" className="shrink-0" onClick={onOpen}>
        Review…
      </Button>
    </div>
  );
}
