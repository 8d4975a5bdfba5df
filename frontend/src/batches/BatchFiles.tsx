/* The files of a batch, each with its verdict or why there is none. */
import { Link } from "react-router";
import type { ItemHead } from "../api/schema";
import { Button } from "../ui/Button";
import { Heads } from "../ui/Heads";
import { StateDot } from "../ui/StateDot";

export type Shown = "all" | "done" | "failed" | "waiting";

interface Props {
  items: readonly ItemHead[];
  more: boolean;
  onMore: () => void;
}

export function BatchFiles({ items, more, onMore }: Props) {
  if (items.length === 0) return <p className="text-graphite">None of these.</p>;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <table className="w-full">
        <Heads
          of={[
            { text: "No.", right: true, className: "w-12 pr-3" },
            { text: "", label: "Verdict", className: "w-6" },
            { text: "File" },
            { text: "What came of it" },
            { text: "Tried", right: true, className: "w-16" },
          ]}
        />
        <tbody>
          {items.map((item) => (
            <tr key={item.number} className="border-b border-rule">
              <td className="pr-3 text-right text-graphite">{item.number}</td>
              <td>
                {item.state === "waiting" ? null : (
                  <StateDot
                    state={item.state === "failed" ? "fail" : (item.verdict as "pass" | "look" | "fail")}
                  />
                )}
              </td>
              <td className="py-1.5">
                {item.run_id ? (
                  <Link to={`/runs/${item.run_id}`} className="font-semibold hover:underline">
                    {item.name}
                  </Link>
                ) : (
                  item.name
                )}
              </td>
              <td className={item.state === "failed" ? "text-cinnabar" : ""}>
                {item.state === "waiting" ? <span className="text-graphite">waiting</span> : item.words}
              </td>
              <td className="text-right text-graphite">{item.tried || ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {more && items.length < 1000 && (
        <Button look="text" className="mt-2" onClick={onMore}>
          Show more
        </Button>
      )}
    </div>
  );
}
