/* What was read off the curves, below the answers; then how the series compare. */
import { Comparisons } from "../../effects/Comparisons";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";
import { useSelection } from "../../state/selection";

export function Predictions() {
  const { part } = useOpenRun().view.revision.outcome;
  const { curves } = useCurves();
  const { showNumber } = useSelection();
  const predictions = part.kind === "relation" ? (part.predictions ?? []) : [];
  return (
    <>
      {predictions.length > 0 && part.kind === "relation" && (
        <div className="mt-2 max-h-[220px] overflow-auto rounded-lg border border-rule bg-chalk">
          <table aria-label="Predictions" className="w-full text-md">
            <thead className="text-sm text-graphite">
              <tr>
                <th className="px-3 py-1 text-left font-normal">Read off</th>
                {curves.length > 1 && <th className="px-3 py-1 text-left font-normal">Series</th>}
                <th className="px-3 py-1 text-right font-normal">Value</th>
                <th className="px-3 py-1 text-right font-normal">Interval</th>
                <th className="px-3 py-1 text-left font-normal">Remarks</th>
              </tr>
            </thead>
            <tbody>
              {predictions.map((each) => {
                const [of, at] =
                  each.asked === "x" ? [part.y_label, part.x_label] : [part.x_label, part.y_label];
                return (
                  <tr key={each.working} className="border-t border-rule/70">
                    <td className="px-3 py-1">
                      {of} at {at} = {each.shown_at}
                    </td>
                    {curves.length > 1 && <td className="px-3 py-1">{each.of}</td>}
                    <td className="px-3 py-1 text-right font-semibold">
                      <button
                        type="button"
                        title="Show working"
                        className="hover:text-permanganate"
                        onClick={() => showNumber({ id: each.working!, title: `${of} at ${each.shown_at}` })}
                      >
                        {each.value.shown}
                      </button>
                    </td>
                    <td className="px-3 py-1 text-right">
                      {each.value.lower != null && each.value.upper != null
                        ? `${each.value.shown_lower} – ${each.value.shown_upper}`
                        : "—"}
                    </td>
                    <td className="px-3 py-1 text-iodine">{each.beyond}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <Comparisons />
    </>
  );
}
