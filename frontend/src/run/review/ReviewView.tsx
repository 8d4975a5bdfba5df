/* The review of a run: where it stands, what is said of it, who signed, and the next step. */
import { useState } from "react";
import { may, useMe } from "../../people/me";
import { Button } from "../../ui/Button";
import { Pending } from "../../ui/Message";
import { useOpenRun } from "../state/open";
import { MoveDialog, type Moving } from "./MoveDialog";
import { useReview } from "./queries";
import { Remarks } from "./Remarks";
import { Signatures } from "./Signatures";
import { SignDialog } from "./SignDialog";

const STAGES = ["draft", "handed in", "reviewed", "signed"] as const;
const WHAT: Record<(typeof STAGES)[number], string> = {
  draft: "It can be changed. When it is done, hand it in.",
  "handed in": "It waits for a reviewer, and stays as it is until it is reviewed or goes back.",
  reviewed: "A reviewer has gone through it. It can be signed now.",
  signed: "It stays as it is for good. To change anything, open a new draft that follows it.",
};

export function ReviewView() {
  const { view } = useOpenRun();
  const { run, revision } = view;
  const { data: me } = useMe();
  const review = useReview(run.id);
  const [moving, setMoving] = useState<Moving | null>(null);
  const [signing, setSigning] = useState(false);
  if (!review.data)
    return <Pending failure={review.error ?? review.failureReason} onRetry={review.refetch} />;
  const { stage, steps, follows, signatures } = review.data;
  const works = may(me, "work", run.study_id);
  const reviews = may(me, "review", run.study_id);
  const at = STAGES.indexOf(stage);
  const followed = signatures.find((each) => each.revision === follows);
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(340px,40%)_1fr]">
      <section aria-label="Review" className="min-h-0 overflow-y-auto border-r border-rule p-4">
        <h2 className="mb-3 text-lg">Review</h2>
        <ol className="flex items-center gap-1" aria-label="Stages">
          {STAGES.map((each, i) => (
            <li
              key={each}
              aria-current={i === at ? "step" : undefined}
              className={`flex-1 border-t-3 pt-1 ${i <= at ? "border-permanganate" : "border-rule text-graphite"} ${i === at ? "font-semibold" : ""}`}
            >
              {capital(each)}
            </li>
          ))}
        </ol>
        <p className="mt-3">{WHAT[stage]}</p>
        {followed && stage !== "signed" && (
          <p className="text-graphite">
            Follows revision {followed.revision}, which {followed.name} signed on{" "}
            {new Date(followed.at).toLocaleDateString("en-GB", { dateStyle: "long" })}.
          </p>
        )}
        <div className="mt-3 flex flex-wrap gap-2">
          {stage === "draft" && works && (
            <Button look="accent" onClick={() => setMoving("hand in")}>
              Hand in…
            </Button>
          )}
          {stage === "handed in" && reviews && (
            <Button look="accent" onClick={() => setMoving("review")}>
              Reviewed…
            </Button>
          )}
          {stage === "reviewed" && reviews && (
            <Button look="accent" onClick={() => setSigning(true)}>
              Sign…
            </Button>
          )}
          {(stage === "handed in" || stage === "reviewed") && reviews && (
            <Button onClick={() => setMoving("send back")}>Send back…</Button>
          )}
          {(stage === "handed in" || stage === "reviewed") && works && (
            <Button onClick={() => setMoving("take back")}>Take back…</Button>
          )}
          {stage === "signed" && works && (
            <Button onClick={() => setMoving("new draft")}>Open a new draft…</Button>
          )}
          {!works && !reviews && <p className="text-graphite">You may look at it.</p>}
          {stage !== "draft" && !reviews && works && (
            <p className="w-full text-graphite">A reviewer of this study takes the next step.</p>
          )}
        </div>
        <h3 className="mt-6 mb-1 font-sans text-sm text-graphite">The way so far</h3>
        {steps.length > 0 ? (
          <ol className="border-t border-rule">
            {steps.map((step, i) => (
              <li key={i} className="border-b border-rule py-1.5">
                {step.stage === "draft"
                  ? steps[i - 1]?.stage === "signed"
                    ? "New draft"
                    : "Back to draft"
                  : capital(step.stage)}
                {step.words && `: ${step.words}`}
                <span className="block text-sm text-graphite">
                  {step.author}, {new Date(step.at).toLocaleString("en-GB")} · revision {step.revision}
                </span>
              </li>
            ))}
          </ol>
        ) : (
          <p className="text-graphite">Nobody has handed it in yet.</p>
        )}
        <Signatures signatures={signatures} />
      </section>
      <Remarks review={review.data} may={{ remark: reviews, answer: works || reviews }} />
      {moving && (
        <MoveDialog run={run.id} revision={revision.number} moving={moving} onClose={() => setMoving(null)} />
      )}
      {signing && <SignDialog review={review.data} onClose={() => setSigning(false)} />}
    </div>
  );
}

function capital(stage: string): string {
  return stage.charAt(0).toUpperCase() + stage.slice(1);
}
