/* The points of a control chart as a table. */
import { Link } from "react-router";
import type { Trend } from "../api/schema";
import { Heads } from "../ui/Heads";

export function Points({ trend }: { trend: Trend }) {
  return (
    <table className="mt-2">
      <Heads
        of={[
          { text: "No.", right: true },
          { text: "Run", className: "pl-4" },
          { text: "Value", right: true, className: "pl-4" },
          { text: "Moving range", right: true, className: "pl-4" },
          { text: "Rules broken", className: "pl-4" },
        ]}
      />
      <tbody>
        {trend.points.map((point, i) => (
          <tr key={point.run} className="border-b border-rule text-right">
            <td className="py-1 text-graphite">{i + 1}</td>
            <td className="pl-4 text-left">
              <Link to={`/runs/${point.run}`} className="hover:underline">
                {point.title}
              </Link>
            </td>
            <td className="pl-4 font-semibold">{point.shown}</td>
            <td className="pl-4">
              {point.moving_range == null ? "" : String(Number(point.moving_range.toPrecision(3)))}
            </td>
            <td className="pl-4 text-left text-iodine">{(point.broken ?? []).join("; ")}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
