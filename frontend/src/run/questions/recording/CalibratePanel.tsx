/* By what each channel is calibrated: known values of stretches, at the beginning and at the end, or a kept calibration. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Pick } from "../../../ui/Choice";
import { useOpenRun } from "../../state/open";
import { DraftField, NumberField, ON_OFF, OptionalNumber, PickRow, Row, useStep } from "../../working/fields";
import { useRecording } from "./useRecording";

const KEPT = ["calibrations"];
const NONE = {
  known: [],
  after: [],
  order: 1 as const,
  name: "",
  unit: "",
  sensitivity: null,
  decimals: null,
};
const ORDERS = [
  { value: "1", text: "a line" },
  { value: "2", text: "a parabola" },
  { value: "3", text: "a cubic" },
] as const;

export function CalibratePanel() {
  const { step, set } = useStep("calibrate");
  const part = useRecording();
  const channels = part?.channels ?? [];
  const [asked, setAsked] = useState("");
  const channel = channels.find((each) => each.key === asked) ?? channels[0];
  if (!channel || !part) return <p className="text-sm text-graphite">There are no channels yet.</p>;
  const own = step.channels?.[channel.key] ?? NONE;
  const change = (next: Partial<typeof own>, words: string) =>
    set(
      { channels: { ...step.channels, [channel.key]: { ...own, ...next } } },
      `Calibrate: ${channel.key} ${words}`,
    );
  const known = (which: "known" | "after", stretch: string) =>
    (own[which] ?? []).find((each) => each.stretch === stretch)?.value ?? null;
  const tell = (which: "known" | "after", stretch: string, value: number | null) => {
    const rest = (own[which] ?? []).filter((each) => each.stretch !== stretch);
    change(
      { [which]: value === null ? rest : [...rest, { stretch, value }] },
      `${stretch} is ${value ?? "not known"}`,
    );
  };
  return (
    <>
      <PickRow
        says="Channel"
        value={channel.key}
        options={channels.map((each) => ({ value: each.key, text: each.key }))}
        onChange={setAsked}
      />
      <Row label="means">
        <DraftField
          key={`name ${channel.key} ${own.name}`}
          label="Name of the value"
          given={own.name ?? ""}
          read={(text) => text.trim()}
          need="Type a name."
          onCommit={(name) => name !== (own.name ?? "") && change({ name }, `means ${name}`)}
          className="w-[104px]"
        />
        in
        <DraftField
          key={`unit ${channel.key} ${own.unit}`}
          label="Unit of the value"
          given={own.unit ?? ""}
          read={(text) => text.trim()}
          need="Type a unit."
          onCommit={(unit) => unit !== (own.unit ?? "") && change({ unit }, `in ${unit}`)}
          className="w-[64px]"
        />
      </Row>
      {part.stretches?.length === 0 ? (
        <p className="text-sm text-graphite">
          Set stretches first; two of them with their true values calibrate a channel.
        </p>
      ) : (
        <table aria-label="Known values" className="my-1 text-md">
          <thead className="text-sm text-graphite">
            <tr>
              <th className="pr-2 text-left font-normal">Stretch</th>
              <th className="px-1 text-right font-normal">is</th>
              <th className="px-1 text-right font-normal" title="Known again at the end, for drift">
                at the end
              </th>
            </tr>
          </thead>
          <tbody>
            {part.stretches?.map((stretch) => (
              <tr key={stretch.name}>
                <td className="max-w-[110px] truncate pr-2" title={stretch.name}>
                  {stretch.name}
                </td>
                {(["known", "after"] as const).map((which) => (
                  <td key={which} className="px-0.5">
                    <OptionalNumber
                      className="w-[58px]"
                      key={`${channel.key} ${stretch.name} ${known(which, stretch.name)}`}
                      label={`${stretch.name} ${which === "known" ? "is" : "is at the end"}`}
                      value={known(which, stretch.name)}
                      onCommit={(value) => tell(which, stretch.name, value)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {(own.known ?? []).length === 1 && (
        <Row label="Sensitivity">
          <NumberField
            key={`${channel.key} ${own.sensitivity}`}
            label="Sensitivity"
            value={own.sensitivity ?? null}
            fits={(value) => value !== 0}
            need="Type the signal per unit of the value, not zero."
            onCommit={(sensitivity) => change({ sensitivity }, `sensitivity ${sensitivity}`)}
          />
          <span className="text-sm text-graphite">
            {channel.raw_label.split(" / ")[1] ?? "signal"} per unit
          </span>
        </Row>
      )}
      <PickRow
        says="Through them goes"
        label="Curve of the calibration"
        value={String(own.order ?? 1) as "1"}
        options={ORDERS}
        onChange={(order) => change({ order: Number(order) as 1 }, `by ${ORDERS[Number(order) - 1]!.text}`)}
      />
      <Row label="Decimals">
        <OptionalNumber
          className="w-[58px]"
          key={`${channel.key} decimals ${own.decimals}`}
          label="Decimals"
          value={own.decimals ?? null}
          fits={(value) => Number.isInteger(value) && value >= 0 && value <= 9}
          onCommit={(decimals) => change({ decimals }, `${decimals ?? "by themselves"} decimals`)}
        />
        <span className="text-sm text-graphite">empty: as the noise allows</span>
      </Row>
      {channel.equation && <p className="text-sm text-graphite">{channel.equation}</p>}
      <PickRow
        says="Shown in calibrated units"
        label="In calibrated units"
        value={step.applied === false ? "off" : "on"}
        options={ON_OFF}
        onChange={(on) => set({ applied: on === "on" }, `Calibrate: calibrated units ${on}`)}
      />
      <Kept />
    </>
  );
}

/** Calibrations kept by name: this one kept, or another applied to the channels of its names. */
function Kept() {
  const { view } = useOpenRun();
  const { step, set } = useStep("calibrate");
  const part = useRecording();
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEPT, queryFn: () => answer(api.GET("/api/calibrations")) });
  const [name, setName] = useState("");
  const keep = useMutation({
    mutationFn: () => answer(api.POST("/api/calibrations", { body: { name, run: view.run.id } })),
    onSuccess: () => {
      setName("");
      client.invalidateQueries({ queryKey: KEPT });
    },
  });
  const apply = (id: string) => {
    const found = data?.find((each) => String(each.id) === id)?.body;
    if (!found || !part) return;
    const channels = { ...step.channels };
    found.channels.forEach((kept, i) => {
      // By the name of the channel; where none has it, by its place.
      const to = part.channels?.find((each) => each.key === kept.channel) ?? part.channels?.[i];
      if (to)
        channels[to.key] = {
          known: [],
          after: [],
          order: 1,
          name: kept.name ?? "",
          unit: kept.unit ?? "",
          decimals: kept.decimals ?? null,
          kept: kept.curve,
        };
    });
    set({ channels, applied: true }, `Calibrate: by “${found.name}”`);
  };
  return (
    <div className="mt-1.5 border-t border-rule pt-1.5">
      {(data ?? []).length > 0 && (
        <Row label="Apply">
          <Pick
            label="Kept calibration"
            value=""
            options={[
              { value: "", text: "a kept calibration…" },
              ...(data ?? []).map((each) => ({ value: String(each.id), text: each.body.name })),
            ]}
            onChange={apply}
          />
        </Row>
      )}
      <form
        className="flex items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) keep.mutate();
        }}
      >
        <input
          aria-label="Name to keep the calibration by"
          value={name}
          placeholder="keep it as …"
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
          className="w-[130px] rounded-md border border-rule bg-chalk px-1.5 placeholder:text-graphite"
        />
        <Button type="submit" disabled={!name.trim() || keep.isPending}>
          Keep
        </Button>
      </form>
      {keep.error && (
        <p role="alert" className="text-sm text-cinnabar">
          {keep.error.message}
        </p>
      )}
      {keep.data && <p className="text-sm text-graphite">Kept as “{keep.data.name}”.</p>}
    </div>
  );
}
