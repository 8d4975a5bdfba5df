/* Precision and trueness over runs, and the summary of a validation; of all runs, or of those that are chosen. */
import { useState } from "react";
import type { Trends } from "../api/schema";
import { Button } from "../ui/Button";
import { Heads } from "../ui/Heads";
import { ChooseRuns } from "./ChooseRuns";

interface Props {
  data: Trends;
  method: number;
  counted: readonly number[];
  onCount: (runs: readonly number[]) => void;
}

export function Precision({ data, counted, onCount }: Props) {
  const [choosing, setChoosing] = useState(false);
  const [summary, setSummary] = useState(false);
  const rows = data.watched.filter(
    (each) => each.nominal != null || (each.key.startsWith("parameter:") && each.points.length > 2),
  );
  const count = counted.length || data.runs.length;
  return (
    <section aria-label="Between and within runs" className="border-t border-rule p-4">
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg">Between and within runs</h2>
        <span className="text-graphite">
          {counted.length > 0 ? `${count} chosen runs` : `all ${count} runs`}; analysis of variance, ISO
          5725-2
        </span>
        <Button look="text" onClick={() => setChoosing(true)}>
          Choose runs…
        </Button>
        <Button look="text" className="ml-auto" aria-expanded={summary} onClick={() => setSummary(!summary)}>
          Validation summary
        </Button>
      </div>
      <table className="mt-2 w-full">
        <Heads
          of={[
            { text: "", label: "Number" },
            ...[
              "Mean",
              "Recovery",
              "95 % interval",
              "Within SD",
              "Between SD",
              "Total SD",
              "Total CV",
              "Allowed",
            ].map((text) => ({ text, right: true })),
            { text: "", label: "Verdict", className: "pl-5" },
          ]}
        />
        <tbody>
          {rows.map(({ key, title, unit, spread }) => (
            <tr key={key} className="border-b border-rule text-right">
              <td className="py-1.5 text-left font-semibold">
                {title} <span className="font-normal text-graphite">{unit}</span>
              </td>
              <td className="font-semibold">{spread.shown_mean}</td>
              <td>{spread.shown_recovery}</td>
              <td>{spread.shown_interval}</td>
              <td>{spread.shown_within}</td>
              <td>{spread.shown_between}</td>
              <td>{spread.shown_total}</td>
              <td>{spread.shown_cv}</td>
              <td>{spread.allowed == null ? "" : `± ${Math.round(100 * spread.allowed)} %`}</td>
              <td
                className={`pl-5 text-left ${spread.state === "fail" ? "text-cinnabar" : "text-malachite"}`}
              >
                {spread.verdict}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-sm text-graphite">
        Within is between readings of one run, between what runs differ by beyond it. Where a run has one
        value only, the total alone is known.
      </p>
      {summary && (
        <>
          <h3 className="mt-5 text-lg">Validation summary</h3>
          <table>
            <tbody>
              {data.summary.rows.map(({ what, found, of }) => (
                <tr key={what} className="border-b border-rule">
                  <td className="py-1 pr-6 font-semibold">{what}</td>
                  <td className="pr-6">{found}</td>
                  <td className="text-graphite">{of}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-1 text-sm text-graphite">
            After ICH Q2(R2) and M10; what a protocol demands beyond it – stability, selectivity – is not in
            these runs.
          </p>
        </>
      )}
      {choosing && (
        <ChooseRuns
          runs={data.runs}
          chosen={counted}
          onClose={() => setChoosing(false)}
          onChoose={(chosen) => {
            onCount(chosen);
            setChoosing(false);
          }}
        />
      )}
    </section>
  );
}
