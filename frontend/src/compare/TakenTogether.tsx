/* Potencies of samples that several runs have assayed, taken together. */
import type { ReactNode } from "react";
import type { Together } from "../api/schema";

function Note({ children }: { children: ReactNode }) {
  return <p className="mt-1 max-w-fit rounded-md bg-iodine-tint px-3 py-2">{children}</p>;
}

export function TakenTogether({ rows }: { rows: readonly Together[] }) {
  const unit = rows[0]?.unit;
  return (
    <section>
      <h2 className="mt-6 text-lg">Potencies taken together</h2>
      <table>
        <thead>
          <tr className="border-b border-rule text-left text-graphite">
            <th aria-label="Sample" />
            <th className="px-3 text-right font-normal">Runs</th>
            <th className="px-3 text-right font-semibold" colSpan={2}>
              Semi-weighted{unit && ` ${unit}`} (95 %)
            </th>
            <th className="px-3 text-right font-normal" colSpan={2}>
              Weighted (95 %)
            </th>
            <th className="px-3 text-right font-normal">Between runs, CV</th>
            <th className="px-3 font-normal">p of homogeneity</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className="border-b border-rule">
              <td className="py-1 pr-6 font-semibold">{row.name}</td>
              <td className="px-3 text-right">{row.runs}</td>
              <td className="pl-3 text-right font-semibold">{row.semi_weighted}</td>
              <td className="pr-3 pl-2 text-right text-graphite">{row.semi_interval}</td>
              <td className="pl-3 text-right">{row.weighted}</td>
              <td className="pr-3 pl-2 text-right text-graphite">{row.weighted_interval}</td>
              <td className="px-3 text-right">{row.between}</td>
              <td className="px-3">{row.shown_p}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.flatMap((row) => [
        row.left_out.length > 0 && (
          <Note key={`${row.name} out`}>
            {row.name}: not taken in, for want of a standard error: {row.left_out.join(", ")}.
          </Note>
        ),
        row.doubtful.length > 0 && (
          <Note key={`${row.name} doubtful`}>
            {row.name}: taken in although there is something to look at: {row.doubtful.join(", ")}. Compare
            again without what is not valid.
          </Note>
        ),
      ])}
      <p className="mt-1 text-sm text-graphite">
        Each run counts as one independent assay. Semi-weighted lets them differ by more than their own errors
        and has its interval from how the runs agree; weighted takes them to differ by their own errors alone,
        which a large p does not show.
      </p>
    </section>
  );
}
