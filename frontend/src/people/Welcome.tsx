/* Coming in by a one-time link: the first administrator, somebody invited, or who has forgotten a password. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type ProblemError, problemOf } from "../api/client";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { Message, Pending } from "../ui/Message";
import { Door } from "./Door";

export function Welcome() {
  const secret = window.location.hash.slice(1);
  const link = useQuery({
    queryKey: ["one-time link", secret],
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answer(api.POST("/api/one-time-link", { body: { secret } })),
  });
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ProblemError["problem"] | null>(null);
  if (link.error)
    return (
      <div className="flex h-full">
        <Message title="This link does not work." detail={problemOf(link.error).detail}>
          <Button onClick={() => window.location.assign("/")}>Sign in</Button>
        </Message>
      </div>
    );
  if (!link.data) return <Pending failure={link.failureReason} onRetry={link.refetch} />;
  const { first } = link.data;
  const submit = async () => {
    setBusy(true);
    setProblem(null);
    try {
      await answer(api.POST("/api/come-in", { body: { secret, password, ...(first && { name, email }) } }));
      window.location.assign("/");
    } catch (error) {
      setProblem(problemOf(error));
      setBusy(false);
    }
  };
  const differs = again !== "" && again !== password;
  return (
    <Door
      title={first ? "The first administrator" : `Welcome, ${link.data.name}`}
      detail={
        first
          ? "You can do everything, and invite the others. Your name is what the Ledger says of each change."
          : `You sign in as ${link.data.email}. Choose a password.`
      }
      problem={problem}
      onSubmit={submit}
    >
      {first && (
        <>
          <Field label="Your name" autoComplete="name" value={name} onChange={setName} maxLength={200} />
          <Field
            label="E-mail"
            type="email"
            autoComplete="username"
            value={email}
            onChange={setEmail}
            maxLength={200}
          />
        </>
      )}
      <Field
        label="Password, 12 characters or more"
        type="password"
        autoComplete="new-password"
        value={password}
        onChange={setPassword}
      />
      <Field
        label="The same password again"
        type="password"
        autoComplete="new-password"
        value={again}
        onChange={setAgain}
        problem={differs ? "These two are not the same." : undefined}
      />
      <Button
        look="accent"
        type="submit"
        disabled={busy || !password || again !== password || (first && (!name.trim() || !email.trim()))}
      >
        {busy ? "Coming in …" : "Come in"}
      </Button>
    </Door>
  );
}
