/* Remarks on a run, its readings, steps and answers: made, answered, closed. */
import { type FormEvent, useState } from "react";
import type { Review, ReviewRemark } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { usePlaces } from "./places";
import { useReviewing } from "./queries";

interface Props {
  review: Review;
  may: { remark: boolean; answer: boolean };
}

export function Remarks({ review, may }: Props) {
  const open = review.remarks.filter((each) => each.closed_at == null);
  const closed = review.remarks.filter((each) => each.closed_at != null);
  return (
    <section aria-label="Remarks" tabIndex={0} className="min-h-0 overflow-y-auto bg-chalk p-4">
      <h2 className="mb-2 text-lg">Remarks</h2>
      {may.remark && review.stage !== "signed" && <NewRemark />}
      {review.remarks.length === 0 && (
        <p className="text-graphite">
          {may.remark
            ? "None yet. What has to be looked at again is said here, of the run, a reading, a step or an answer."
            : "None. A reviewer says here what has to be looked at again."}
        </p>
      )}
      <ul>
        {open.map((each) => (
          <OneRemark key={each.id} remark={each} may={may} />
        ))}
      </ul>
      {closed.length > 0 && <h3 className="mt-5 mb-1 font-sans text-sm text-graphite">Closed</h3>}
      <ul>
        {closed.map((each) => (
          <OneRemark key={each.id} remark={each} may={{ remark: false, answer: false }} />
        ))}
      </ul>
    </section>
  );
}

const KINDS = [
  { value: "run", text: "the run as a whole" },
  { value: "answer", text: "an answer" },
  { value: "reading", text: "a reading" },
  { value: "step", text: "a step" },
] as const;

function NewRemark() {
  const { view } = useOpenRun();
  const { remark } = useReviewing(view.run.id);
  const places = usePlaces();
  const [kind, setKind] = useState<(typeof KINDS)[number]["value"]>("run");
  const [id, setId] = useState("");
  const [text, setText] = useState("");
  const options = kind === "run" ? [] : places[kind];
  const chosen = options.find((each) => each.value === id) ?? options[0];
  const make = async (event: FormEvent) => {
    event.preventDefault();
    const place = kind === "run" ? "run" : `${kind}:${chosen?.value}`;
    const named = kind === "run" ? "the run" : (chosen?.text ?? "");
    if (await remark({ place, named, text })) setText("");
  };
  return (
    <form
      onSubmit={make}
      className="mb-3 flex flex-col gap-2 border-b border-rule pb-3"
      aria-label="New remark"
    >
      <div className="flex items-center gap-2">
        On
        <Pick
          label="Remark on"
          value={kind}
          options={KINDS.filter(({ value }) => value === "run" || places[value].length > 0)}
          onChange={(next) => {
            setKind(next);
            setId("");
          }}
        />
        {chosen && <Pick label="Which" value={chosen.value} options={options} onChange={setId} />}
      </div>
      <div className="flex items-end gap-2">
        <Field label="Remark" value={text} onChange={setText} maxLength={4000} className="flex-1" />
        <Button type="submit" disabled={!text.trim()}>
          Remark
        </Button>
      </div>
    </form>
  );
}

function OneRemark({ remark, may }: { remark: ReviewRemark; may: Props["may"] }) {
  const { view, show } = useOpenRun();
  const { select } = useSelection();
  const { answer, close } = useReviewing(view.run.id);
  const [text, setText] = useState("");
  const { groupOf } = usePlaces();
  const group = groupOf(remark.place);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    if (await answer(remark.id, text)) setText("");
  };
  const said = (author: string, at: string) => (
    <span className="text-sm text-graphite">
      {author}, {new Date(at).toLocaleString("en-GB")}
    </span>
  );
  return (
    <li className="border-b border-rule py-2">
      <p>
        {group ? (
          <Button
            look="text"
            onClick={() => {
              show("work");
              select(group);
            }}
          >
            {remark.named}
          </Button>
        ) : (
          <b>{remark.named}</b>
        )}
        : {remark.text}
      </p>
      {said(remark.author, `${remark.at}`)}
      <span className="text-sm text-graphite"> · revision {remark.revision}</span>
      {(remark.answers ?? []).map((each, i) => (
        <p key={i} className="mt-1 ml-5">
          {each.text}
          <span className="block">{said(each.author, each.at)}</span>
        </p>
      ))}
      {remark.closed_by && remark.closed_at && (
        <p className="mt-1 ml-5 text-graphite">Closed by {said(remark.closed_by, remark.closed_at)}</p>
      )}
      {(may.answer || may.remark) && (
        <form onSubmit={send} className="mt-1 ml-5 flex items-end gap-2">
          {may.answer && (
            <>
              <Field
                label={`Answer to the remark on ${remark.named}`}
                value={text}
                onChange={setText}
                maxLength={4000}
                className="flex-1"
              />
              <Button type="submit" disabled={!text.trim()}>
                Answer
              </Button>
            </>
          )}
          {may.remark && <Button onClick={() => close(remark.id)}>Close the remark</Button>}
        </form>
      )}
    </li>
  );
}
