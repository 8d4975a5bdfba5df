/* An equation of one's own, tried while it is typed: its parameters, its curve through the points, every start. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { answer, api, problemOf } from "../../api/client";
import type { EquationLook } from "../../api/schema";
import { Ask } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { typed } from "../../ui/Field";
import { useCurves } from "../state/curves";
import { useOpenRun } from "../state/open";
import { useSettled } from "../state/useSettled";

interface Props {
  /** As they are now. */
  equation: string;
  start: Record<string, number>;
  onUse: (equation: string, start: Record<string, number>) => void;
  onClose: () => void;
}

const PAUSE_MS = 200;

export function OwnEquation({ equation: now, start, onUse, onClose }: Props) {
  const { view } = useOpenRun();
  const { curve } = useCurves();
  const [equation, setEquation] = useState(now);
  const [starts, setStarts] = useState<Record<string, string>>(
    Object.fromEntries(Object.entries(start).map(([name, value]) => [name, String(value)])),
  );
  const fieldId = useId();
  const given = Object.fromEntries(
    Object.entries(starts)
      .map(([name, text]) => [name, typed(text)] as const)
      .filter(([, value]) => Number.isFinite(value)),
  );
  const wanted = JSON.stringify({ equation, start: given, series: curve.key ?? "" });
  const settled = useSettled(wanted, PAUSE_MS);
  const look = useQuery({
    queryKey: ["equation", view.run.id, view.revision.number, settled],
    enabled: JSON.parse(settled).equation.trim() !== "",
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 0,
    queryFn: () =>
      answer(
        api.POST("/api/runs/{id}/equation", {
          params: { path: { id: view.run.id } },
          body: JSON.parse(settled),
        }),
      ),
  });
  const found = equation.trim() === "" ? undefined : look.data;
  const problem = look.error ? (problemOf(look.error).detail ?? "") : (found?.problem ?? "");
  const ready = settled === wanted && !look.isFetching && found !== undefined && !problem;
  const parameters = found?.parameters ?? [];
  return (
    <Ask title="Own equation" open onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!ready) return;
          // What the search came to is where the fit begins from now on, so that nothing is searched for twice.
          const start = Object.fromEntries(
            parameters.flatMap((each) => {
              const value = given[each.name] ?? each.value;
              return value == null ? [] : [[each.name, value]];
            }),
          );
          onUse(equation.trim(), start);
        }}
      >
        <label htmlFor={fieldId} className="flex items-baseline gap-2">
          <span className="font-serif text-[15px] italic">y =</span>
          <input
            id={fieldId}
            aria-label="Equation in x and parameters"
            // biome-ignore lint/a11y/noAutofocus: it was just asked for
            autoFocus
            value={equation}
            spellCheck={false}
            placeholder="a*exp(-b*x) + c"
            onChange={(event) => setEquation(event.target.value)}
            className="flex-1 rounded-md border border-rule bg-chalk px-2 py-1 font-serif text-[15px] italic"
          />
        </label>
        {problem && (
          <p role="alert" className="text-cinnabar">
            {problem}
            {found?.position != null &&
              ` It stops making sense at “${equation.slice(found.position, found.position + 12) || "the end"}”.`}
          </p>
        )}
        <div className="flex gap-4">
          <Sketch look={found} />
          <table className="self-start text-md">
            <thead className="text-sm text-graphite">
              <tr>
                <th className="pr-3 text-left font-normal">Parameter</th>
                <th className="pr-3 text-right font-normal">Start</th>
                <th className="text-right font-normal">Fitted</th>
              </tr>
            </thead>
            <tbody>
              {parameters.map((each) => (
                <tr key={each.name}>
                  <td className="pr-3 font-serif italic">{each.name}</td>
                  <td className="pr-3 text-right">
                    {each.linear ? (
                      <span className="text-sm text-graphite">solved for</span>
                    ) : (
                      <input
                        aria-label={`Start of ${each.name}`}
                        placeholder="searched"
                        value={starts[each.name] ?? ""}
                        onChange={(event) => setStarts({ ...starts, [each.name]: event.target.value })}
                        className="w-[88px] rounded-md border border-rule bg-chalk px-1.5 text-right"
                      />
                    )}
                  </td>
                  <td className="text-right">{each.shown}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {found?.said && <p className="text-md text-graphite">{found.said}</p>}
        {(found?.tried ?? []).length > 0 && <Tried look={found!} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!ready}>
            Use this equation
          </Button>
        </div>
      </form>
    </Ask>
  );
}

function Tried({ look }: { look: EquationLook }) {
  return (
    <details className="text-md">
      <summary className="text-graphite">Result of every start</summary>
      <div className="max-h-[180px] overflow-auto">
        <table aria-label="Result of every start" className="w-full text-sm">
          <thead className="text-graphite">
            <tr>
              {(look.parameters ?? []).map((each) => (
                <th key={each.name} className="pr-2 text-right font-normal">
                  {each.name}
                </th>
              ))}
              <th className="text-right font-normal">SSE</th>
              <th aria-label="best" />
            </tr>
          </thead>
          <tbody>
            {(look.tried ?? []).map((each, i) => (
              <tr key={i} className={each.best ? "font-semibold" : "text-graphite"}>
                {each.shown_end.map((end, k) => (
                  <td key={k} className="pr-2 text-right" title={`from ${each.shown_start[k]}`}>
                    {end}
                  </td>
                ))}
                <td className="text-right">{each.shown_sse}</td>
                <td className="pl-2">{each.best ? "best" : each.converged ? "" : "not settled"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}

const [WIDTH, HEIGHT] = [300, 170];

/** The points and the curve, as a picture without axes: whether it goes through them is what it shows. */
function Sketch({ look }: { look: EquationLook | undefined }) {
  const [xs, ys] = [look?.points_x ?? [], look?.points_y ?? []];
  const every = [...ys, ...(look?.y ?? [])];
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const [y0, y1] = [Math.min(...ys), Math.max(...ys)];
  const x = (value: number) => 8 + ((WIDTH - 16) * (value - x0)) / (x1 - x0 || 1);
  const y = (value: number) => HEIGHT - 8 - ((HEIGHT - 16) * (value - y0)) / (y1 - y0 || 1);
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label="Points and the curve of this equation"
      className="shrink-0 overflow-hidden rounded-md border border-rule bg-chalk"
    >
      {every.length > 0 && (
        <>
          <path
            d={(look?.x ?? []).map((value, i) => `${i ? "L" : "M"}${x(value)} ${y(look!.y![i]!)}`).join("")}
            fill="none"
            stroke="var(--color-permanganate)"
            strokeWidth={2}
          />
          {xs.map((value, i) => (
            <circle key={i} cx={x(value)} cy={y(ys[i]!)} r={3} fill="var(--color-cupric)" />
          ))}
        </>
      )}
    </svg>
  );
}
