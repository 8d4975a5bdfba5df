/* Bringing a run a step further or back, with a few words for the Ledger. */
import { useState } from "react";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Field } from "../../ui/Field";
import { useReviewing } from "./queries";

export type Moving = "hand in" | "take back" | "new draft" | "review" | "send back";

const TOLD: Record<
  Moving,
  { title: string; detail: string; words: string; button: string; done: string; why?: true }
> = {
  "hand in": {
    title: "Hand this run in?",
    detail: "A reviewer goes through it. Until then it stays as it is; you can take it back.",
    words: "A word to the reviewer, if there is one",
    button: "Hand in",
    done: "Handed in.",
  },
  "take back": {
    title: "Take it back?",
    detail: "It is a draft again, and can be changed.",
    words: "Why, if you like",
    button: "Take back",
    done: "It is a draft again.",
  },
  "new draft": {
    title: "Open a new draft?",
    detail: "What was signed stays as it is, with its signature. The draft says that it follows it.",
    words: "Why a change is needed",
    button: "Open the draft",
    done: "The draft is open.",
    why: true,
  },
  review: {
    title: "Has it been reviewed?",
    detail: "You say that you went through readings, working and answers of this revision.",
    words: "A word on it, if there is one",
    button: "It was reviewed",
    done: "Reviewed.",
  },
  "send back": {
    title: "Send it back?",
    detail: "It is a draft again. Remarks stay, and can be answered.",
    words: "What has to be done",
    button: "Send back",
    done: "Sent back.",
    why: true,
  },
};

interface Props {
  run: number;
  revision: number;
  moving: Moving;
  onClose: () => void;
}

export function MoveDialog({ run, revision, moving, onClose }: Props) {
  const { own, step } = useReviewing(run);
  const [words, setWords] = useState("");
  const { title, detail, words: label, button, done, why } = TOLD[moving];
  const move = async () => {
    const head = { based_on: revision, words: words.trim() };
    const went =
      moving === "review" || moving === "send back"
        ? step({ move: moving, ...head }, done)
        : own({ move: moving, ...head }, done);
    if (await went) onClose();
  };
  return (
    <Ask title={title} detail={detail} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          move();
        }}
      >
        <Field label={label} value={words} onChange={setWords} maxLength={1000} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={why && !words.trim()}>
            {button}
          </Button>
        </div>
      </form>
    </Ask>
  );
}
