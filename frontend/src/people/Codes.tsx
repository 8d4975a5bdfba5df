/* One-time codes by time: set up with a telephone, and taken off again. */
import { useState } from "react";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import type { CodeKey } from "../api/schema";
import { Button } from "../ui/Button";
import { Field } from "../ui/Field";
import { ShownOnce } from "./ShownOnce";

export function Codes({ used, onDone }: { used: boolean; onDone: () => void }) {
  const [key, setKey] = useState<CodeKey | null>(null);
  const [code, setCode] = useState("");
  const [password, setPassword] = useState("");
  const [ending, setEnding] = useState(false);
  const begin = () => attempted(answer(api.GET("/api/me/code-key")).then(setKey));
  const set = async () => {
    const body = { password, code, ...(key && { key: key.key }) };
    const done = answer(api.PUT("/api/me/codes", { body }));
    const said = key ? "From now on you sign in with a code, too." : "You sign in without codes from now on.";
    if (!(await attempted(done, said))) return;
    setKey(null);
    setEnding(false);
    setCode("");
    setPassword("");
    onDone();
  };
  if (!key && !ending)
    return (
      <>
        <p className="mb-2 text-graphite">
          {used
            ? "Signing in asks for a code that your telephone shows."
            : "With a second thing that only you have, a password that leaks lets nobody in."}
        </p>
        <Button onClick={used ? () => setEnding(true) : begin}>
          {used ? "Take codes off…" : "Set codes up…"}
        </Button>
      </>
    );
  return (
    <form
      className="flex flex-col gap-2"
      aria-label="Codes"
      onSubmit={(event) => {
        event.preventDefault();
        set();
      }}
    >
      {key && (
        <>
          <p className="text-graphite">
            Type this key into the application on your telephone that makes codes by time, then the code it
            shows.
          </p>
          <ShownOnce label="Key for the telephone" text={key.key} />
          <Field label="Code" inputMode="numeric" value={code} onChange={setCode} maxLength={7} />
        </>
      )}
      <Field
        label="Your password"
        type="password"
        autoComplete="current-password"
        value={password}
        onChange={setPassword}
      />
      <div className="flex gap-2">
        <Button
          onClick={() => {
            setKey(null);
            setEnding(false);
          }}
        >
          Cancel
        </Button>
        <Button type="submit" disabled={!password || (key !== null && !code)}>
          {key ? "Use codes" : "Take codes off"}
        </Button>
      </div>
    </form>
  );
}
