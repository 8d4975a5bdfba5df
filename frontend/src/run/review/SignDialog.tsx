/* Signing: what is signed is shown, with its digest, and the password is asked for again. */
import { useState } from "react";
import type { Review, Sign } from "../../api/schema";
import { useMe } from "../../people/me";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { useOpenRun } from "../state/open";
import { useReviewing } from "./queries";

const MEANINGS: { value: Sign["meaning"]; text: string }[] = [
  { value: "approval", text: "approval" },
  { value: "review", text: "review" },
  { value: "responsibility", text: "responsibility" },
  { value: "authorship", text: "authorship" },
];
const SHOWN = 8;

export function SignDialog({ review, onClose }: { review: Review; onClose: () => void }) {
  const { view } = useOpenRun();
  const { run, revision } = view;
  const { data: me } = useMe();
  const { sign } = useReviewing(run.id);
  const [meaning, setMeaning] = useState<Sign["meaning"]>("approval");
  const [password, setPassword] = useState("");
  const [busy, setBusy] = useState(false);
  const { verdict, answers } = revision.outcome;
  const lead = answers.columns.findIndex((column) => column.lead);
  const column = answers.columns[lead];
  const put = async () => {
    setBusy(true);
    const body = { based_on: review.revision, digest: review.digest, meaning, password };
    if (await sign(body)) onClose();
    setBusy(false);
  };
  return (
    <Ask title="Sign this run" open onClose={onClose} wide>
      <p>
        <b>{run.title}</b>, revision {review.revision}, handed in by {review.handed_in_by}
      </p>
      <p>{verdict.headline}</p>
      {column && (
        <table className="w-full" aria-label="What is signed">
          <tbody>
            {answers.rows.slice(0, SHOWN).map((row, i) => (
              <tr key={row.key} className="border-b border-rule">
                <td className="py-0.5">{row.name}</td>
                <td className="text-right">
                  {column.texts[i]} {column.unit}
                </td>
                <td className="w-[40%] pl-3 text-graphite">{column.name}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {answers.rows.length > SHOWN && (
        <p className="text-graphite">and {answers.rows.length - SHOWN} more answers</p>
      )}
      <p className="text-sm text-graphite">
        SHA-256 of its readings, their source, layout, method and outcome:
        <span className="block font-mono break-all text-ink">{review.digest}</span>
      </p>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          put();
        }}
      >
        <p>
          {me?.name} signs as{" "}
          <Pick label="Meaning" value={meaning} options={MEANINGS} onChange={setMeaning} />
        </p>
        <Field
          label={me?.by_itself ? "Password (in the demo: demo)" : "Your password"}
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={setPassword}
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!password || busy}>
            {busy ? "Signing …" : "Sign"}
          </Button>
        </div>
      </form>
    </Ask>
  );
}
