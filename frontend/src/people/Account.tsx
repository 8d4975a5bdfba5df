/* One's own account: password, codes, where one is signed in, tokens for scripts. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import { useStudies } from "../api/hooks";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Pick, Segments } from "../ui/Choice";
import { Field } from "../ui/Field";
import { Heads } from "../ui/Heads";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { when } from "../ui/when";
import { Codes } from "./Codes";
import { useMe } from "./me";
import { ShownOnce } from "./ShownOnce";

export const OWN = ["own"] as const;

export function Account() {
  const { data: me } = useMe();
  const own = useQuery({ queryKey: OWN, queryFn: () => answer(api.GET("/api/me/open")) });
  const queries = useQueryClient();
  const [making, setMaking] = useState(false);
  const again = () => queries.invalidateQueries({ queryKey: OWN });
  const studies = useStudies();
  const end = async (id: number) => {
    const params = { path: { id } };
    if (await attempted(answer(api.DELETE("/api/me/sessions/{id}", { params })))) again();
  };
  const revoke = async (id: number) => {
    const params = { path: { id } };
    if (
      await attempted(
        answer(api.DELETE("/api/me/tokens/{id}", { params })),
        "The token does not work any more.",
      )
    )
      again();
  };
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[{ text: "Your account" }]} />
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        <h1 className="text-xl">{me?.name}</h1>
        <p className="text-graphite">{me?.email}</p>
        {own.data ? (
          <div className="grid max-w-[1100px] grid-cols-2 gap-8">
            <section aria-label="Signing in">
              <h2 className="mt-4 mb-1 text-lg">Password</h2>
              <Password />
              <h2 className="mt-5 mb-1 text-lg">Codes from a telephone</h2>
              <Codes used={own.data.codes} onDone={again} />
            </section>
            <section aria-label="Where it is open">
              <h2 className="mt-4 mb-1 text-lg">Signed in at</h2>
              <ul>
                {own.data.sessions.map((each) => (
                  <li key={each.id} className="flex items-baseline gap-2 border-b border-rule py-1">
                    <span className="min-w-0 flex-1 truncate" title={each.agent}>
                      {each.address}
                      <span className="text-graphite">
                        , since {when(each.made_at)}
                        {each.id === own.data.session ? " · here" : ""}
                      </span>
                    </span>
                    {each.id !== own.data.session && (
                      <Button look="text" onClick={() => end(each.id)}>
                        End
                      </Button>
                    )}
                  </li>
                ))}
              </ul>
              <div className="mt-5 mb-1 flex items-baseline justify-between">
                <h2 className="text-lg">Tokens for scripts</h2>
                <Button onClick={() => setMaking(true)}>New token…</Button>
              </div>
              {own.data.tokens.length === 0 ? (
                <p className="text-graphite">
                  None. A script sends one with each request, as Authorization: Bearer, and does in your name
                  what it allows.
                </p>
              ) : (
                <table className="w-full">
                  <Heads
                    of={[
                      { text: "Token" },
                      { text: "May" },
                      { text: "Used last" },
                      { text: "Ends" },
                      { text: "", label: "What can be done" },
                    ]}
                  />
                  <tbody>
                    {own.data.tokens.map((each) => (
                      <tr key={each.id} className="border-b border-rule">
                        <td className="py-1 pr-2">{each.name}</td>
                        <td className="pr-2">
                          {each.scope}
                          {each.study_id != null &&
                            ` in ${studies.data?.find((study) => study.id === each.study_id)?.name ?? `study ${each.study_id}`}`}
                        </td>
                        <td className="pr-2 text-graphite">
                          {each.seen_at ? when(each.seen_at) : "not yet"}
                        </td>
                        <td className="pr-2 text-graphite">{when(each.ends_at)}</td>
                        <td className="text-right">
                          <Button
                            look="text"
                            aria-label={`Revoke ${each.name}`}
                            onClick={() => revoke(each.id)}
                          >
                            Revoke
                          </Button>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
            </section>
          </div>
        ) : (
          <Pending failure={own.error ?? own.failureReason} onRetry={own.refetch} />
        )}
      </main>
      {making && (
        <NewToken
          onClose={() => {
            setMaking(false);
            again();
          }}
        />
      )}
    </div>
  );
}

function Password() {
  const [current, setCurrent] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const set = async () => {
    const done = answer(api.PUT("/api/me/password", { body: { current, password } }));
    if (!(await attempted(done, "The password is changed; other sessions have ended."))) return;
    setCurrent("");
    setPassword("");
    queries.invalidateQueries({ queryKey: OWN });
  };
  return (
    <form
      className="flex flex-col gap-2"
      aria-label="Change the password"
      onSubmit={(event) => {
        event.preventDefault();
        set();
      }}
    >
      <Field
        label="Password until now"
        type="password"
        autoComplete="current-password"
        value={current}
        onChange={setCurrent}
      />
      <Field
        label="New password, 12 characters or more"
        type="password"
        autoComplete="new-password"
        value={password}
        onChange={setPassword}
      />
      <Button type="submit" className="self-start" disabled={!current || !password}>
        Change the password
      </Button>
    </form>
  );
}

function NewToken({ onClose }: { onClose: () => void }) {
  const studies = useStudies();
  const [name, setName] = useState("");
  const [scope, setScope] = useState<"read" | "work">("read");
  const [study, setStudy] = useState("0");
  const [days, setDays] = useState("90");
  const [secret, setSecret] = useState("");
  const make = () => {
    const body = { name, scope, days: Number(days), study: Number(study) || null };
    return attempted(answer(api.POST("/api/me/tokens", { body })).then((made) => setSecret(made.secret)));
  };
  if (secret)
    return (
      <Ask
        title="The new token"
        detail="It is shown only now. Keep it where the script finds it."
        open
        onClose={onClose}
      >
        <ShownOnce label="Token" text={secret} />
        <Button look="accent" className="self-end" onClick={onClose}>
          Done
        </Button>
      </Ask>
    );
  return (
    <Ask title="New token" open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <Field label="What it is for" value={name} onChange={setName} maxLength={100} />
        <div className="flex items-center gap-2">
          It may
          <Segments
            label="It may"
            value={scope}
            options={[
              { value: "read", text: "read" },
              { value: "work", text: "read and work" },
            ]}
            onChange={setScope}
          />
          in
          <Pick
            label="In which study"
            value={study}
            options={[
              { value: "0", text: "all studies that I may" },
              ...(studies.data ?? []).map((each) => ({ value: String(each.id), text: each.name })),
            ]}
            onChange={setStudy}
          />
        </div>
        <div className="flex items-center gap-2">
          for
          <Pick
            label="For how long"
            value={days}
            options={[
              { value: "7", text: "7 days" },
              { value: "30", text: "30 days" },
              { value: "90", text: "90 days" },
              { value: "366", text: "a year" },
            ]}
            onChange={setDays}
          />
        </div>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!name.trim()}>
            Make the token
          </Button>
        </div>
      </form>
    </Ask>
  );
}
