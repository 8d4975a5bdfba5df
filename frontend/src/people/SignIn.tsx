/* Signing in: address and password, and a code where the person uses one. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type ProblemError, problemOf } from "../api/client";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { Door } from "./Door";

export function SignIn({ onDone }: { onDone: () => void }) {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [asked, setAsked] = useState(false);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ProblemError["problem"] | null>(null);
  const provider = useQuery({
    queryKey: ["provider"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => answer(api.GET("/api/provider")),
  });
  const submit = async () => {
    setBusy(true);
    setProblem(null);
    try {
      await answer(api.POST("/api/sign-in", { body: { email, password, code } }));
      onDone();
    } catch (error) {
      const found = problemOf(error);
      if (found.kind === "code") setAsked(true);
      else setProblem(found);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Door title="Sign in" problem={problem} onSubmit={submit}>
      <Field
        label="E-mail"
        type="email"
        autoComplete="username"
        autoFocus
        value={email}
        onChange={setEmail}
      />
      <Field
        label="Password"
        type="password"
        autoComplete="current-password"
        value={password}
        onChange={setPassword}
      />
      {asked && (
        <Field
          label="Code that your telephone shows"
          inputMode="numeric"
          autoComplete="one-time-code"
          autoFocus
          maxLength={7}
          value={code}
          onChange={setCode}
        />
      )}
      <Button look="accent" type="submit" disabled={busy || !email || !password}>
        {busy ? "Signing in …" : "Sign in"}
      </Button>
      {provider.data?.name && (
        <a href="/api/provider/begin" className="text-center text-permanganate hover:underline">
          Sign in by {provider.data.name}
        </a>
      )}
      <p className="text-sm text-graphite">
        Forgotten the password, or no account yet? An administrator of your lab makes a one-time link.
      </p>
    </Door>
  );
}
