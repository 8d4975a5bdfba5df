/* Which readings decide an answer: what it would be without each of them. Below its working, when it is asked for. */
import { useState } from "react";
import { useInfluence } from "../../api/hooks";
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";

export function Decides({ answer }: { answer: string }) {
  const { view } = useOpenRun();
  const { select } = useSelection();
  const [asked, setAsked] = useState(false);
  const found = useInfluence(view.run.id, view.revision.number, asked ? answer : null);
  if (!asked)
    return (
      <Button look="text" className="mt-2 text-sm" onClick={() => setAsked(true)}>
        What decides this answer?
      </Button>
    );
  if (found.isError)
    return (
      <p role="alert" className="mt-2 text-sm text-graphite">
        {found.error.message}
      </p>
    );
  if (!found.data)
    return (
      <p role="status" className="mt-2 text-sm text-graphite">
        Leaving out each reading in turn …
      </p>
    );
  const { said, moves, untried, tried } = found.data;
  return (
    <section aria-label="What decides this answer" className="mt-2 border-t border-rule pt-1.5 text-sm">
      <p className="text-graphite">{said}</p>
      <table className="mt-1 w-full">
        <tbody>
          {moves.map((each) => (
            <tr key={each.reading}>
              <td className="py-0.5 pr-2">
                <Button look="text" onClick={() => select({ group: each.group, reading: each.reading })}>
                  {each.name}
                </Button>{" "}
                <span className="text-graphite">read {each.text}</span>
              </td>
              <td className="whitespace-nowrap py-0.5 pr-2 text-right">without it {each.shown}</td>
              <td
                className={`whitespace-nowrap py-0.5 text-right ${each.beyond ? "font-semibold text-iodine" : ""}`}
              >
                {each.shown_change}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {untried > 0 && (
        <p className="text-graphite">
          The nearest {tried} readings were tried; {untried} further off were not.
        </p>
      )}
    </section>
  );
}
