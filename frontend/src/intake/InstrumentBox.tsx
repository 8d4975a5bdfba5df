/* Reading with an instrument: which one, its settings, progress, and what went wrong in its own words. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, problemOf } from "../api/client";
import type { Connected, Setting } from "../api/schema";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Field } from "../ui/Field";
import { Pending } from "../ui/Message";
import { LiveTraces, type Mark } from "./LiveTraces";

const POLL_MS = 300;
const LIST = ["instruments"];

export function InstrumentBox({ onText }: { onText: (text: string) => void }) {
  const [number, setNumber] = useState(0);
  const list = useQuery({ queryKey: LIST, queryFn: () => answer(api.GET("/api/instruments")) });
  if (!list.data) return <Pending failure={list.error ?? list.failureReason} onRetry={list.refetch} />;
  if (list.data.length === 0)
    return (
      <p className="rounded-lg border border-rule bg-chalk p-5 text-graphite">
        No instrument is connected. Their addresses are set where Dosis is started:
        DOSIS_INSTRUMENTS=host:port.
      </p>
    );
  const chosen = list.data[number] ?? list.data[0]!;
  return (
    <div className="flex min-h-0 flex-1 gap-4">
      <ul className="flex w-[280px] shrink-0 flex-col gap-2" aria-label="Instruments">
        {list.data.map((each) => (
          <li key={each.number}>
            <button
              type="button"
              aria-pressed={each.number === chosen.number}
              onClick={() => setNumber(each.number)}
              className={`w-full rounded-lg border bg-chalk p-3 text-left ${each.number === chosen.number ? "border-2 border-permanganate" : "border-rule"}`}
            >
              <span className="block font-semibold first-letter:uppercase">
                {each.instrument?.kind ?? "Not answering"}
              </span>
              <span className="block text-sm text-graphite">{each.instrument?.name ?? each.address}</span>
            </button>
          </li>
        ))}
      </ul>
      {chosen.instrument ? (
        <Reader key={chosen.number} connected={chosen} onText={onText} />
      ) : (
        <div className="flex-1 rounded-lg border border-rule bg-chalk p-5">
          <p className="mb-3 text-cinnabar">{chosen.problem}</p>
          <Button onClick={() => list.refetch()}>Check again</Button>
        </div>
      )}
    </div>
  );
}

function Reader({ connected, onText }: { connected: Connected; onText: (text: string) => void }) {
  const queries = useQueryClient();
  const instrument = connected.instrument!;
  const params = { path: { number: connected.number } };
  const [settings, setSettings] = useState<Record<string, string>>(() =>
    Object.fromEntries(instrument.settings.map((setting) => [setting.id, setting.value])),
  );
  const [reading, setReading] = useState(false);
  const [marks, setMarks] = useState<Mark[]>([]);
  const status = useQuery({
    queryKey: ["instrument", connected.number],
    refetchInterval: POLL_MS,
    retry: false,
    queryFn: () => answer(api.GET("/api/instruments/{number}/status", { params })),
  });
  const start = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/instruments/{number}/start", {
          params,
          body: { settings: Object.entries(settings).map(([id, value]) => ({ id, value })) },
        }),
      ),
    onSuccess: () => {
      fetched.reset();
      setMarks([]);
      setReading(true);
      status.refetch();
    },
  });
  const fetched = useMutation({
    mutationFn: () => answer(api.POST("/api/instruments/{number}/values", { params, body: { marks } })),
    onSuccess: (found) => {
      setReading(false);
      onText(found.text);
    },
    onError: () => queries.invalidateQueries({ queryKey: LIST }),
  });
  const stop = useMutation({
    mutationFn: () => answer(api.POST("/api/instruments/{number}/stop", { params })),
    onSettled: () => setReading(false),
  });
  const turn = useMutation({
    mutationFn: (change: { name: string; value: string }) =>
      answer(api.POST("/api/instruments/{number}/panel", { params, body: change })),
    onSuccess: () => queries.invalidateQueries({ queryKey: LIST }),
  });
  const state = status.data?.state;
  const { mutate: fetchValues, isPending: fetching, isError: lost } = fetched;
  useEffect(() => {
    if (reading && state === "done" && !fetching && !lost) fetchValues();
    if (reading && state === "fault") setReading(false);
  }, [reading, state, fetching, lost, fetchValues]);
  const failure = fetched.error ?? start.error ?? status.error;
  const said = state === "fault" || state === "warming" ? status.data!.text : "";
  return (
    <form
      aria-label={`Read with the ${instrument.kind}`}
      onSubmit={(event) => {
        event.preventDefault();
        start.mutate();
      }}
      className="flex min-w-0 flex-1 flex-col gap-3 rounded-lg border border-rule bg-chalk p-5"
    >
      <div className="grid grid-cols-2 gap-3">
        {instrument.settings
          .filter((setting) => shownFor(setting, settings["CONF:MODE"]))
          .map((setting) => (
            <SettingField
              key={setting.id}
              setting={setting}
              value={settings[setting.id] ?? ""}
              onChange={(value) => setSettings((old) => ({ ...old, [setting.id]: value }))}
            />
          ))}
      </div>
      <div className="flex items-center gap-3">
        <Button look="accent" type="submit" disabled={reading || state === "warming" || state === "fault"}>
          Read
        </Button>
        {reading && <Button onClick={() => stop.mutate()}>Stop</Button>}
        {reading && (
          <div
            role="progressbar"
            aria-label="Reading"
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={status.data?.percent ?? 0}
            className="h-2 flex-1 overflow-hidden rounded-full border border-rule"
          >
            <div className="h-full bg-permanganate" style={{ width: `${status.data?.percent ?? 0}%` }} />
          </div>
        )}
      </div>
      {reading && instrument.kind === "voltage logger" && (
        <LiveTraces
          number={connected.number}
          marks={marks}
          onMark={(mark) => setMarks((old) => [...old, mark])}
        />
      )}
      {said && (
        <p className="text-iodine" role="status">
          {said}
        </p>
      )}
      {failure != null && (
        <p role="alert" className="flex items-center gap-3 text-cinnabar">
          {problemOf(failure).detail}
          {fetched.isError && (
            <Button className="shrink-0" onClick={() => fetchValues()}>
              Fetch the values again
            </Button>
          )}
        </p>
      )}
      {Object.keys(instrument.panel).length > 0 && (
        <fieldset className="mt-auto border-t border-rule pt-3 text-sm text-graphite">
          <legend className="float-left mr-3">This instrument is simulated. Its switches:</legend>
          {Object.entries(instrument.panel).map(([name, value]) => (
            <Button
              key={name}
              look="text"
              className="mr-4"
              onClick={() => turn.mutate({ name, value: OTHER[value] ?? value })}
            >
              {name}: {value}
            </Button>
          ))}
        </fieldset>
      )}
    </form>
  );
}

const OTHER: Record<string, string> = {
  open: "closed",
  closed: "open",
  in: "out",
  out: "in",
  firm: "loose",
  loose: "firm",
};

/** Settings of a scan are of no use to single wavelengths, and the other way round. */
function shownFor(setting: Setting, mode: string | undefined): boolean {
  if (mode === "single") return !["CONF:STAR", "CONF:STOP", "CONF:STEP"].includes(setting.id);
  return mode !== "scan" || setting.id !== "CONF:WAV";
}

function SettingField({
  setting,
  value,
  onChange,
}: {
  setting: Setting;
  value: string;
  onChange: (value: string) => void;
}) {
  if (!setting.choices?.length)
    return <Field label={setting.text} unit={setting.unit} value={value} onChange={onChange} />;
  return (
    <div className="flex flex-col gap-1">
      <span className="text-sm text-graphite">{setting.text}</span>
      <span>
        <Pick
          label={setting.text}
          value={value}
          options={setting.choices.map((choice) => ({ value: choice, text: choice }))}
          onChange={onChange}
        />
      </span>
    </div>
  );
}
