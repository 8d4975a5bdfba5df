/* What is followed over the levels, by which order it changes, and what it is handed on to. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { Link, useNavigate } from "react-router";
import { answer, api } from "../../../api/client";
import { keys } from "../../../api/hooks";
import { newKey } from "../../../api/key";
import { Button } from "../../../ui/Button";
import { useOpenRun } from "../../state/open";
import { Fitted } from "../../working/Fitted";
import { NumberField, PickRow, Row, useStep } from "../../working/fields";
import { useScanMarks } from "./lines";

const OF = [
  { value: "at", text: "the value at a place" },
  { value: "peak", text: "the highest point" },
  { value: "area", text: "an area" },
] as const;
const ORDERS = [
  { value: "best", text: "the order that fits best" },
  { value: "zero", text: "zero order" },
  { value: "first", text: "first order, to zero" },
  { value: "first_plateau", text: "first order, to a plateau" },
  { value: "off", text: "no rate" },
] as const;

export function ChangePanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("change");
  const part = useScanMarks();
  const navigate = useNavigate();
  const client = useQueryClient();
  const key = useRef(newKey());
  const hand = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/runs/{id}/handed", {
          params: { path: { id: view.run.id } },
          body: { key: key.current, place: part?.followed_at ?? null },
        }),
      ),
    onSuccess: (made) => {
      key.current = newKey();
      client.invalidateQueries({ queryKey: keys.run(view.run.id) });
      navigate(`/runs/${made.run.id}`);
    },
  });
  const change = part?.changes?.[0];
  return (
    <>
      <PickRow
        says="Followed is"
        label="What is followed"
        value={step.of ?? "at"}
        options={OF}
        onChange={(of) => set({ of }, `Change: of ${of}`)}
      />
      {(step.of ?? "at") === "at" && (
        <Row label="at">
          <NumberField
            key={step.at}
            label="Place that is followed"
            value={step.at ?? part?.followed_at ?? null}
            onCommit={(at) => set({ at }, `Change: at ${at}`)}
          />
          {step.at == null && part?.followed_at != null && (
            <span className="text-sm text-graphite">the highest point of all</span>
          )}
        </Row>
      )}
      {part?.timed && (
        <PickRow
          says="It changes by"
          label="Order of the change"
          value={step.order ?? "best"}
          options={ORDERS}
          onChange={(order) => set({ order }, `Change: ${order}`)}
        />
      )}
      <Row label="Scans meet where they lie within">
        <NumberField
          key={step.tolerance}
          label="Scans meet within, share of their spread"
          value={step.tolerance ?? 0.02}
          fits={(value) => value > 0 && value <= 1}
          need="Type a share above 0 and up to 1, such as 0.02."
          onCommit={(tolerance) => set({ tolerance }, `Change: scans meet within ${tolerance}`)}
        />
        of how far they lie apart
      </Row>
      {change && change.parameters.length > 0 && <Fitted curve={change} fixed={{}} />}
      {part?.followed_at != null && !part.timed && (
        <Row label="">
          <Button onClick={() => hand.mutate()} disabled={hand.isPending}>
            Make a standard curve at {part.followed_at}
          </Button>
          {hand.error && (
            <span role="alert" className="text-cinnabar">
              {hand.error.message}
            </span>
          )}
        </Row>
      )}
      {(view.run.led_to ?? []).map((run) => (
        <Row key={run.id} label="Handed on to">
          <Link to={`/runs/${run.id}`} className="text-permanganate underline">
            {run.title}
          </Link>
        </Row>
      ))}
    </>
  );
}
