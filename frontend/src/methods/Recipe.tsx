/* The recipe of a method: what it is for, its steps, what stands where, what it expects, and its versions. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { QUESTIONS, roleTitle } from "../api/declared";
import { attempted } from "../api/files";
import type { MethodView, Version } from "../api/schema";
import { Button } from "../ui/Button";
import { EditMethod } from "./EditMethod";
import { Pattern } from "./Pattern";
import { methodKeys } from "./queries";
import { StateMark } from "./StateMark";

export function Recipe({ view }: { view: MethodView }) {
  const { body, steps } = view;
  const [editing, setEditing] = useState(false);
  const question = QUESTIONS.find((each) => each.id === body.question);
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(320px,420px)] overflow-y-auto">
      <div className="p-5">
        <p className="text-graphite">
          {question?.sentence} {question?.by}.
        </p>
        <p className="mt-1 max-w-[110ch]">{body.about || "Nothing is said of what it is for."}</p>
        {body.source && <p className="mt-1 max-w-[110ch] text-graphite">Source: {body.source}</p>}
        <Button look="text" className="mt-2" onClick={() => setEditing(true)}>
          Change words, free steps and counts…
        </Button>
        <h2 className="mt-6 mb-1 text-lg">Working</h2>
        <ol>
          {steps.map((step, i) => (
            <li key={step.kind} className="flex gap-3 border-b border-rule py-1.5">
              <span className="w-5 text-right text-graphite">{i + 1}</span>
              <span className="w-[150px] shrink-0 font-semibold">{step.title}</span>
              <span className="min-w-0 flex-1">
                {step.settings.map((each) => `${each.what} ${each.after}`).join(", ")}{" "}
                <span className="text-graphite">
                  {step.usual.map((each) => `${each.what} ${each.after}`).join(", ")}
                </span>
              </span>
              {step.free && <span className="text-graphite">may be set otherwise</span>}
            </li>
          ))}
        </ol>
        <Where view={view} />
      </div>
      <aside className="border-l border-rule bg-chalk p-5">
        <Expects view={view} />
        <Versions view={view} />
      </aside>
      {editing && <EditMethod view={view} onClose={() => setEditing(false)} />}
    </div>
  );
}

function Where({ view }: { view: MethodView }) {
  const { layout, names = [], question, level, dilution } = view.body;
  if (layout)
    return (
      <>
        <h2 className="mt-6 mb-2 text-lg">Plate</h2>
        <Pattern layout={layout} question={question} />
      </>
    );
  if (names.length === 0) return null;
  return (
    <>
      <h2 className="mt-6 mb-1 text-lg">Known names</h2>
      <table>
        <tbody>
          {names.slice(0, 60).map((each, i) => (
            <tr key={i} className="border-b border-rule">
              <td className="py-1 pr-6 font-semibold">{each.name}</td>
              <td className="pr-6">{roleTitle(each.role, question)}</td>
              <td className="pr-6 text-right">
                {each.level == null ? "" : `${each.level} ${level?.unit ?? ""}`}
              </td>
              <td className="text-graphite">{each.series}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {names.length > 60 && <p className="text-graphite">and {names.length - 60} more</p>}
      {dilution !== undefined && dilution !== 1 && <p className="mt-1">Samples are diluted × {dilution}.</p>}
    </>
  );
}

const AXES = { "": "single numbers", time: "time courses", wave: "scans", record: "recordings" };

function Expects({ view }: { view: MethodView }) {
  const expected = view.body.expected!;
  const lines = [
    `Readings that are ${AXES[expected.along ?? ""]}`,
    expected.rows ? `on plates of ${expected.rows} × ${expected.columns} wells` : "in a table",
    (expected.channels?.length ?? 0) > 1 && `with ${expected.channels!.join(", ")}`,
    expected.levels ? `at least ${expected.levels} levels of standards or doses` : false,
    expected.blanks ? `at least ${expected.blanks} readings of blanks or controls` : false,
    expected.qcs ? `at least ${expected.qcs} known sample${expected.qcs === 1 ? "" : "s"} (QC)` : false,
    view.body.level?.unit ? `levels in ${view.body.level.unit}` : false,
  ].filter(Boolean);
  return (
    <>
      <h2 className="text-lg">Expects</h2>
      <ul className="mt-1 list-disc pl-5">
        {lines.map((line) => (
          <li key={String(line)}>{line}</li>
        ))}
      </ul>
      <p className="mt-1 text-graphite">What does not fit is said before anything is computed.</p>
    </>
  );
}

function Versions({ view }: { view: MethodView }) {
  const { head, number } = view;
  const queries = useQueryClient();
  const set = (version: Version, state: "use" | "retired") =>
    attempted(
      answer(
        api.POST("/api/methods/{id}/versions/{number}/state", {
          params: { path: { id: head.id, number: version.number } },
          body: { state },
        }),
      ).then(() => queries.invalidateQueries({ queryKey: methodKeys.all })),
      state === "use" ? `Version ${version.number} is in use.` : `Version ${version.number} is retired.`,
    );
  return (
    <>
      <h2 className="mt-6 text-lg">Versions</h2>
      <ul>
        {[...head.versions].reverse().map((each) => (
          <li key={each.number} className="border-b border-rule py-2">
            <div className="flex items-center gap-2">
              {each.number === number ? (
                <b>Version {each.number}</b>
              ) : (
                <Link to={`?version=${each.number}`} className="text-permanganate hover:underline">
                  Version {each.number}
                </Link>
              )}
              <StateMark state={each.state} />
            </div>
            <p className="text-graphite">
              {each.words && `${each.words} · `}
              {each.author}, {new Date(each.created_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}
            </p>
            <p className="flex gap-3">
              {each.state !== "use" && (
                <Button look="text" onClick={() => set(each, "use")}>
                  Take in use
                </Button>
              )}
              {each.state !== "retired" && (
                <Button look="text" onClick={() => set(each, "retired")}>
                  Retire
                </Button>
              )}
              <a
                className="text-permanganate hover:underline"
                href={`/api/methods/${head.id}/versions/${each.number}/file`}
                download
              >
                As a file
              </a>
            </p>
          </li>
        ))}
      </ul>
    </>
  );
}
