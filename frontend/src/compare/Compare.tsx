/* Runs side by side: settings that differ, parameters of their curves, answers that they share and how these agree. */
import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { answer, api } from "../api/client";
import type { Compared } from "../api/schema";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { AgreementPlot } from "./AgreementPlot";
import { TakenTogether } from "./TakenTogether";

const MOST = 500; // answers that are listed

export function Compare() {
  const [query] = useSearchParams();
  const runs = (query.get("runs") ?? "").split(",").map(Number).filter(Boolean);
  const { data, error, failureReason, refetch } = useQuery({
    queryKey: ["compare", runs],
    queryFn: () => answer(api.GET("/api/compare", { params: { query: { runs } } })),
  });
  return (
    <div className="flex h-full min-w-[960px] flex-col">
      <TopBar trail={[{ text: "Runs side by side" }]} />
      {data ? <Found data={data} /> : <Pending failure={error ?? failureReason} onRetry={refetch} />}
    </div>
  );
}

function Found({ data }: { data: Compared }) {
  const heads = data.titles.map((title, i) => (
    <th key={data.runs[i]} className="px-3 py-1 text-right font-semibold">
      <Link to={`/runs/${data.runs[i]}`} className="hover:underline">
        {title}
      </Link>
    </th>
  ));
  return (
    <main className="min-h-0 flex-1 overflow-auto p-5">
      <h1 className="text-xl">{data.titles.join(" · ")}</h1>
      {data.notes.map((note) => (
        <p key={note} className="mt-1 rounded-md bg-iodine-tint px-3 py-2">
          {note}
        </p>
      ))}
      {data.together.length > 0 && <TakenTogether rows={data.together} />}
      <h2 className="mt-5 text-lg">Are the curves the same?</h2>
      {data.parameters.length === 0 ? (
        <p className="text-graphite">No parameters that these runs have in common.</p>
      ) : (
        <table>
          <thead>
            <tr className="border-b border-rule text-left text-graphite">
              <th aria-label="Parameter" />
              {heads}
              <th className="px-3 font-normal">p of being the same</th>
            </tr>
          </thead>
          <tbody>
            {data.parameters.map((row) => (
              <tr key={`${row.curve} ${row.name}`} className="border-b border-rule">
                <td className="py-1.5 pr-6 font-semibold">
                  {row.curve && `${row.curve}: `}
                  {row.name}
                </td>
                {row.values.map((value, i) => (
                  <td key={data.runs[i]} className="px-3 text-right">
                    {value} <span className="text-graphite">{row.intervals[i]}</span>
                  </td>
                ))}
                <td className={`px-3 ${row.differs ? "text-iodine" : ""}`}>
                  {row.shown_p && `p ${row.shown_p}`} {row.differs && "they differ"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-1 text-sm text-graphite">
        Homogeneity of estimates by their standard errors (chi-squared); a large p does not show that they are
        equal.
      </p>
      <h2 className="mt-6 text-lg">Answers in common</h2>
      {data.answers.length === 0 ? (
        <p className="text-graphite">No answer has the same name in two of these runs.</p>
      ) : (
        <div className="flex flex-wrap items-start gap-8">
          <table>
            <thead>
              <tr className="border-b border-rule text-left text-graphite">
                <th aria-label="Name" />
                {heads}
                {data.titles.slice(1).map((title) => (
                  <th key={title} className="px-3 text-right font-normal" colSpan={2}>
                    {title}: difference, ratio
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.answers.slice(0, MOST).map((row) => (
                <tr key={row.name} className="border-b border-rule">
                  <td className="py-1 pr-6 font-semibold">{row.name}</td>
                  {row.shown.map((value, i) => (
                    <td key={data.runs[i]} className="px-3 text-right" title={row.intervals[i]}>
                      {value}
                    </td>
                  ))}
                  {row.differences.slice(1).flatMap((difference, i) => [
                    <td key={`d${data.runs[i]}`} className="px-3 text-right text-graphite">
                      {difference}
                    </td>,
                    <td key={`r${data.runs[i]}`} className="px-3 text-right text-graphite">
                      {row.ratios[i + 1]}
                    </td>,
                  ])}
                </tr>
              ))}
            </tbody>
          </table>
          {data.agreement.map((each) => (
            <AgreementPlot key={each.run} found={each} unit={data.unit} />
          ))}
        </div>
      )}
      {data.answers.length > MOST && (
        <p className="text-graphite">
          The first {MOST} of {data.answers.length}.
        </p>
      )}
      {data.answers.length > 0 && (
        <p className="mt-1 text-sm text-graphite">
          {data.unit && `In ${data.unit}. `}Intervals of differences and ratios take the two runs to err by
          themselves; what both share, such as a stock solution, is not in them.
        </p>
      )}
      <h2 className="mt-6 text-lg">Settings that differ</h2>
      {data.settings.length === 0 ? (
        <p className="text-graphite">All are worked in the same way.</p>
      ) : (
        <table>
          <thead>
            <tr className="border-b border-rule text-graphite">
              <th aria-label="Setting" />
              {heads}
            </tr>
          </thead>
          <tbody>
            {data.settings.map((row) => (
              <tr key={row.what} className="border-b border-rule">
                <td className="py-1.5 pr-6 font-semibold">{row.what}</td>
                {row.values.map((value, i) => (
                  <td key={data.runs[i]} className="px-3 text-right">
                    {value || "—"}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
