/* Methods: the recipes a lab works by, its own and those that ship with Dosis. */
import { useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { Link, useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { QUESTIONS } from "../api/declared";
import { attempted } from "../api/files";
import type { KeptMethod, MethodHead } from "../api/schema";
import { Button } from "../ui/Button";
import { Message, Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { methodKeys, useMethods } from "./queries";
import { StateMark } from "./StateMark";

export function Methods() {
  const { data, error, failureReason, refetch } = useMethods();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const readIn = async (chosen: File) => {
    const read = async () => {
      const body = JSON.parse(await chosen.text()) as KeptMethod;
      const made = await answer(api.POST("/api/methods/file", { body }));
      queries.invalidateQueries({ queryKey: methodKeys.all });
      navigate(`/methods/${made.id}?version=${made.version}`);
    };
    await attempted(
      read().catch((error) => {
        throw error instanceof SyntaxError
          ? new Error(`${chosen.name} is not a method that Dosis wrote.`)
          : error;
      }),
      "Read in as a draft.",
    );
  };
  const own = data?.filter((each) => !each.shipped) ?? [];
  const shipped = data?.filter((each) => each.shipped) ?? [];
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[{ text: "Methods" }]}>
        <Button onClick={() => file.current?.click()}>Read a method in…</Button>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          aria-label="File of a method"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) readIn(chosen);
          }}
        />
      </TopBar>
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        <h1 className="text-xl">Methods</h1>
        <p className="max-w-[80ch] text-graphite">
          A method is a recipe kept from a run: what is asked, how it is worked, what stands where, and which
          readings it expects. New readings are worked by it in one step, and what departs from it is marked.
        </p>
        {data ? (
          <>
            <List title="Your methods" methods={own}>
              <Message
                title="No method of your own yet."
                detail="Open a run that is worked as you want it, and choose “Keep as a method” in its menu beside its name."
              />
            </List>
            <List title="To begin from" methods={shipped} />
          </>
        ) : (
          <Pending failure={error ?? failureReason} onRetry={refetch} />
        )}
      </main>
    </div>
  );
}

function List({
  title,
  methods,
  children,
}: {
  title: string;
  methods: readonly MethodHead[];
  children?: React.ReactNode;
}) {
  return (
    <section className="mt-6">
      <h2 className="mb-1 text-lg">{title}</h2>
      {methods.length === 0 ? (
        children
      ) : (
        <ul>
          {methods.map((each) => (
            <li key={each.id} className="border-b border-rule py-2.5">
              <div className="flex items-center gap-3">
                <Link to={`/methods/${each.id}`} className="font-semibold hover:underline">
                  {each.name}
                </Link>
                <Versions method={each} />
                <span className="ml-auto shrink-0 text-graphite">
                  {each.runs === 1 ? "1 run" : `${each.runs.toLocaleString("en-GB")} runs`}
                </span>
              </div>
              <p className="text-graphite">
                {QUESTIONS.find(({ id }) => id === each.question)?.sentence}{" "}
                <span className="line-clamp-2 max-w-[110ch]">{each.about}</span>
              </p>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Versions({ method }: { method: MethodHead }) {
  const last = method.versions.at(-1)!;
  const use = method.versions.find((each) => each.number === method.use);
  return (
    <>
      {use && <StateMark number={use.number} state={use.state} />}
      {last.number !== use?.number && <StateMark number={last.number} state={last.state} />}
    </>
  );
}
