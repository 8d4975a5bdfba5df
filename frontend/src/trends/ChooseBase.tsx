/* What a number is held against: the runs its limits come from, or a center and an SD that are typed. */
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";
import type { BaseFor, Trend } from "../api/schema";
import { methodKeys } from "../methods/queries";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Segments } from "../ui/Choice";
import { Field, typed } from "../ui/Field";
import { Ticks } from "../ui/Ticks";

type Way = "default" | "runs" | "typed";

export function ChooseBase({
  method,
  trend,
  onClose,
}: {
  method: number;
  trend: Trend;
  onClose: () => void;
}) {
  const queries = useQueryClient();
  const [way, setWay] = useState<Way>(
    trend.held?.chosen ? (trend.held.basis.startsWith("typed") ? "typed" : "runs") : "default",
  );
  const [runs, setRuns] = useState<readonly number[]>(() => trend.points.map((point) => point.run));
  const [center, setCenter] = useState(trend.held ? String(Number(trend.held.center.toPrecision(5))) : "");
  const [sd, setSd] = useState(trend.held ? String(Number(trend.held.sd.toPrecision(4))) : "");
  const numbers = [typed(center), typed(sd)] as const;
  const ready =
    way === "default" ||
    (way === "runs" ? runs.length > 1 : numbers.every(Number.isFinite) && numbers[1] >= 0);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const base: BaseFor["base"] =
      way === "default"
        ? null
        : way === "runs"
          ? { runs: [...runs] }
          : { runs: [], center: numbers[0], sd: numbers[1] };
    attempted(
      answer(
        api.PUT("/api/methods/{id}/trends/base", {
          params: { path: { id: method } },
          body: { key: trend.key, base },
        }),
      ).then(() => {
        queries.invalidateQueries({ queryKey: methodKeys.trends(method) });
        onClose();
      }),
      "Held against these limits from now on.",
    );
  };
  return (
    <Ask wide open title={`Center and limits of ${trend.title}`} onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <Segments
          label="Where limits come from"
          value={way}
          onChange={setWay}
          options={[
            { value: "default", text: "The first 20 runs" },
            { value: "runs", text: "Chosen runs" },
            { value: "typed", text: "Typed" },
          ]}
        />
        {way === "default" && (
          <p className="text-graphite">
            Mean and moving range of the first 20 runs, or of all while there are fewer; from 8 on.
          </p>
        )}
        {way === "runs" && (
          <Ticks
            legend="Runs in which all was well; leave out those whose cause is known"
            options={trend.points.map((point, i) => ({
              value: point.run,
              text: `${i + 1}. ${point.title}`,
              more: point.shown,
            }))}
            chosen={runs}
            onChange={setRuns}
          />
        )}
        {way === "typed" && (
          <div className="flex gap-3">
            <Field label="Center" value={center} onChange={setCenter} unit={trend.unit} />
            <Field label="SD" value={sd} onChange={setSd} unit={trend.unit} />
          </div>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!ready}>
            Hold against these
          </Button>
        </div>
      </form>
    </Ask>
  );
}
