/* The people of a lab, for its administrators: who there is, what each may do, invitations. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { useStudies } from "../api/hooks";
import type { Account } from "../api/schema";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { Heads } from "../ui/Heads";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { when } from "../ui/when";
import { OwnReview } from "./OwnReview";
import { RightsForm, type RightsOf, roleText } from "./RightsForm";
import { ShownOnce } from "./ShownOnce";

const PEOPLE = ["people"] as const;
const NONE: RightsOf = { roles: [], studies: {} };

export function People() {
  const people = useQuery({ queryKey: PEOPLE, queryFn: () => answer(api.GET("/api/people")) });
  const studies = useStudies();
  const queries = useQueryClient();
  const [inviting, setInviting] = useState(false);
  const [changing, setChanging] = useState<Account | null>(null);
  const [closing, setClosing] = useState<Account | null>(null);
  const [link, setLink] = useState<{ name: string; secret: string; hours: number } | null>(null);
  const again = () => queries.invalidateQueries({ queryKey: PEOPLE });
  const linkFor = (person: Account) =>
    attempted(
      answer(api.POST("/api/people/{id}/link", { params: { path: { id: person.id } } })).then((made) =>
        setLink({ name: person.name, secret: made.secret, hours: made.hours ?? 72 }),
      ),
    );
  const setClosed = async (person: Account, closed: boolean) => {
    const params = { path: { id: person.id } };
    const done = answer(api.PUT("/api/people/{id}/closed", { params, body: { closed } }));
    if (
      await attempted(
        done,
        closed ? `${person.name}'s account is closed.` : `${person.name} can sign in again.`,
      )
    )
      again();
    setClosing(null);
  };
  const may = (person: Account) => {
    const named = (id: string) => studies.data?.find((each) => String(each.id) === id)?.name ?? `study ${id}`;
    const parts = person.roles.map((role) => roleText(role));
    for (const [id, roles] of Object.entries(person.studies))
      parts.push(...roles.map((role) => `${roleText(role)} of ${named(id)}`));
    return parts.join(", ") || "nothing yet";
  };
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[{ text: "People" }]}>
        <Button look="accent" onClick={() => setInviting(true)}>
          Invite…
        </Button>
      </TopBar>
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        <h1 className="text-xl">People</h1>
        <p className="mb-3 max-w-[80ch] text-graphite">
          Who may sign in, and what each may do. Accounts are closed, never deleted.
        </p>
        {people.data ? (
          <table className="w-full">
            <Heads
              of={[
                { text: "Name" },
                { text: "E-mail" },
                { text: "May" },
                { text: "Last seen" },
                { text: "", label: "What can be done" },
              ]}
            />
            <tbody>
              {people.data.map((person) => (
                <tr
                  key={person.id}
                  className={`border-b border-rule align-baseline ${person.closed ? "text-graphite" : ""}`}
                >
                  <td className="py-1.5 pr-3">
                    {person.name}
                    {person.closed && <span className="text-sm"> · closed</span>}
                  </td>
                  <td className="pr-3">{person.email}</td>
                  <td className="pr-3">{may(person)}</td>
                  <td className="pr-3 whitespace-nowrap text-graphite">
                    {person.seen_at
                      ? when(person.seen_at)
                      : person.ready
                        ? "—"
                        : "invited, has not come in yet"}
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {person.closed ? (
                      <Button look="text" onClick={() => setClosed(person, false)}>
                        Open again
                      </Button>
                    ) : (
                      <span className="flex justify-end gap-3">
                        <Button
                          look="text"
                          aria-label={`Rights of ${person.name}`}
                          onClick={() => setChanging(person)}
                        >
                          Rights…
                        </Button>
                        <Button
                          look="text"
                          aria-label={`One-time link for ${person.name}`}
                          onClick={() => linkFor(person)}
                        >
                          One-time link…
                        </Button>
                        <Button
                          look="text"
                          aria-label={`Close the account of ${person.name}`}
                          onClick={() => setClosing(person)}
                        >
                          Close…
                        </Button>
                      </span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <Pending failure={people.error ?? people.failureReason} onRetry={people.refetch} />
        )}
        <OwnReview />
      </main>
      {inviting && (
        <Invite
          onClose={() => setInviting(false)}
          onDone={(made) => {
            setInviting(false);
            setLink(made);
            again();
          }}
        />
      )}
      {changing && (
        <Change
          person={changing}
          onClose={() => setChanging(null)}
          onDone={() => {
            setChanging(null);
            again();
          }}
        />
      )}
      <Ask
        title={`A link for ${link?.name ?? ""}`}
        detail={`Hand it on by a way you trust. It works once, for ${link?.hours ?? 72} hours, and is shown only now.`}
        open={link !== null}
        onClose={() => setLink(null)}
      >
        <ShownOnce label="One-time link" text={`${window.location.origin}/welcome#${link?.secret ?? ""}`} />
        <Button look="accent" className="self-end" onClick={() => setLink(null)}>
          Done
        </Button>
      </Ask>
      <Ask
        title={`Close the account of ${closing?.name ?? ""}?`}
        detail="Whoever uses it is signed out at once, and its tokens end. It can be opened again."
        open={closing !== null}
        onClose={() => setClosing(null)}
      >
        <div className="flex justify-end gap-2">
          <Button onClick={() => setClosing(null)}>Cancel</Button>
          <Button look="accent" onClick={() => closing && setClosed(closing, true)}>
            Close the account
          </Button>
        </div>
      </Ask>
    </div>
  );
}

function Invite({
  onClose,
  onDone,
}: {
  onClose: () => void;
  onDone: (made: { name: string; secret: string; hours: number }) => void;
}) {
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [rights, setRights] = useState(NONE);
  const invite = () =>
    attempted(
      answer(api.POST("/api/people", { body: { name, email, ...rights } })).then((made) =>
        onDone({ name, secret: made.secret, hours: made.hours ?? 72 }),
      ),
    );
  return (
    <Ask
      title="Invite somebody"
      detail="Their name is what the Ledger says of each change."
      open
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          invite();
        }}
      >
        <Field label="Name" value={name} onChange={setName} maxLength={200} required />
        <Field label="E-mail" type="email" value={email} onChange={setEmail} maxLength={200} required />
        <RightsForm rights={rights} onChange={setRights} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!name.trim() || !email.trim()}>
            Make the link
          </Button>
        </div>
      </form>
    </Ask>
  );
}

function Change({ person, onClose, onDone }: { person: Account; onClose: () => void; onDone: () => void }) {
  const [rights, setRights] = useState<RightsOf>({ roles: person.roles, studies: person.studies });
  const keep = async () => {
    const params = { path: { id: person.id } };
    if (await attempted(answer(api.PUT("/api/people/{id}/rights", { params, body: rights })), "Kept."))
      onDone();
  };
  return (
    <Ask
      title={`What ${person.name} may do`}
      detail="It holds from their next click on."
      open
      onClose={onClose}
    >
      <RightsForm rights={rights} onChange={setRights} />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button look="accent" onClick={keep}>
          Keep
        </Button>
      </div>
    </Ask>
  );
}
