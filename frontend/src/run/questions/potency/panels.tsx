/* The choices of the steps of a potency run: assays, potency, checks. */
import { Pick } from "../../../ui/Choice";
import { DeclaredRow } from "../../effects/DeclaredRow";
import { useOpenRun } from "../../state/open";
import { CheckList } from "../../working/CheckList";
import { IntervalPick, NumberField, OptionalNumber, PickRow, Row, useStep } from "../../working/fields";

/** The series of doses, as they stand in the layout. */
function usePreparations(): string[] {
  const { groups } = useOpenRun().view.revision.layout;
  const doses = groups.filter((group) => group.role === "dose" && group.level != null);
  return [...new Set(doses.map((group) => group.series || "All doses"))];
}

export function AssaysPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("assays");
  const names = usePreparations();
  return (
    <>
      {names.length > 1 && (
        <PickRow
          says="The reference is"
          label="Reference"
          value={names.includes(step.reference ?? "") ? step.reference! : names[0]!}
          options={names.map((value) => ({ value, text: value }))}
          onChange={(reference) => set({ reference }, `Assays: the reference is ${reference}`)}
        />
      )}
      {(view.readings.plates?.length ?? 0) > 1 && (
        <PickRow
          says="Independent assays are"
          label="Assays"
          value={step.assays ?? "auto"}
          options={[
            { value: "auto", text: "plates that have samples" },
            { value: "plates", text: "the plates" },
            { value: "one", text: "none: the run is one assay" },
          ]}
          onChange={(assays) => set({ assays }, `Assays: ${assays}`)}
        />
      )}
      <PickRow
        says="Readings are"
        label="Blocks"
        value={step.blocked ?? "random"}
        options={[
          { value: "random", text: "completely randomized" },
          { value: "replicates", text: "in blocks by replicate" },
          { value: "plates", text: "in blocks by plate" },
          { value: "rows", text: "in blocks by row" },
          { value: "columns", text: "in blocks by column" },
          { value: "square", text: "in a square of rows and columns" },
          { value: "names", text: "in blocks by name" },
          { value: "cross_over", text: "a cross-over of animals" },
        ]}
        onChange={(blocked) => set({ blocked }, `Assays: ${blocked}`)}
      />
      <PickRow
        says="Responses are taken"
        label="Responses"
        value={step.response ?? "read"}
        options={[
          { value: "read", text: "as they are" },
          { value: "log", text: "as their logarithm" },
        ]}
        onChange={(response) => set({ response }, `Assays: response ${response}`)}
      />
    </>
  );
}

export function PotencyPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("potency");
  const { part } = view.revision.outcome;
  const names = usePreparations();
  const reference = part.kind === "potency" ? part.reference : names[0];
  // Of slopes and curves the spread is what the model leaves.
  const lines = part.kind === "potency" && part.model === "lines";
  return (
    <>
      <PickRow
        says="The model is"
        label="Model"
        value={step.model ?? "auto"}
        options={[
          { value: "auto", text: "what fits best" },
          { value: "lines", text: "parallel lines on log dose" },
          { value: "slopes", text: "a ratio of slopes" },
          { value: "logistic4", text: "parallel curves, four parameters" },
          { value: "logistic5", text: "parallel curves, five parameters" },
        ]}
        onChange={(model) => set({ model }, `Potency: ${model}`)}
      />
      <DeclaredRow kind="potency" />
      {names
        .filter((name) => name !== reference)
        .slice(0, 8)
        .map((name) => (
          <Row key={name} label={`${name} assumed`}>
            <OptionalNumber
              key={`${name} ${step.assumed?.[name]}`}
              label={`Assumed potency of ${name}`}
              value={step.assumed?.[name] ?? null}
              fits={(value) => value > 0}
              need="Type the potency that its doses were made up from, or nothing where doses are amounts."
              onCommit={(value) =>
                set(
                  (now) => {
                    const { [name]: _, ...others } = now.assumed ?? {};
                    return { assumed: value === null ? others : { ...others, [name]: value } };
                  },
                  `Potency: ${name} assumed ${value ?? "none"}`,
                )
              }
            />
            {step.unit}
          </Row>
        ))}
      {names.length > 1 && (
        <p className="py-0.5 text-sm text-graphite">
          Where a sample’s doses were made up from an assumed potency, type it; empty, they are amounts.
        </p>
      )}
      <Row label={lines ? "The spread is" : "The interval is of"}>
        {lines && (
          <Pick
            label="Variance"
            value={step.error ?? "auto"}
            options={[
              { value: "auto", text: "between replicates if enough" },
              { value: "pure", text: "between replicates" },
              { value: "residual", text: "what the model leaves" },
            ]}
            onChange={(error) => set({ error }, `Potency: variance ${error}`)}
          />
        )}
        <IntervalPick
          level={step.interval}
          onChange={(interval) => set({ interval }, `Potency: interval ${interval}`)}
        />
      </Row>
      {(view.readings.plates?.length ?? 0) > 1 && (
        <PickRow
          says="Several assays make one potency"
          label="Combine"
          value={step.combine ?? "semi-weighted"}
          options={[
            { value: "semi-weighted", text: "semi-weighted: assays differ" },
            { value: "weighted", text: "weighted: they do not differ" },
            { value: "unweighted", text: "unweighted" },
          ]}
          onChange={(combine) => set({ combine }, `Potency: ${combine}`)}
        />
      )}
    </>
  );
}

export function PotencyChecksPanel() {
  const { step, set } = useStep("potency_checks");
  const { low, high } = step.slopes ?? { low: 0.8, high: 1.25 };
  const percent = (share: number) => +(100 * share).toPrecision(4);
  const share = (value: number) => value > 0 && value <= 100;
  return (
    <>
      <PickRow
        says="Preparations are parallel where"
        label="Parallel by"
        value={step.parallel_by ?? "difference"}
        options={[
          { value: "difference", text: "no difference is shown" },
          { value: "equivalence", text: "equivalence is shown" },
        ]}
        onChange={(parallel_by) => set({ parallel_by }, `Checks: parallel by ${parallel_by}`)}
      />
      <Row label="p at least">
        <NumberField
          key={`p ${step.p}`}
          label="p at least"
          value={step.p ?? 0.05}
          fits={(value) => value > 0 && value < 0.5}
          need="Type a probability between 0 and 0.5, such as 0.05."
          onCommit={(p) => set({ p }, `Checks: p ${p}`)}
        />
      </Row>
      <Row label="Ratio of slopes within">
        <NumberField
          key={`low ${low}`}
          label="Ratio of slopes at least"
          value={low}
          fits={(value) => value > 0 && value < 1}
          need="Type a ratio between 0 and 1, such as 0.8."
          onCommit={(value) =>
            set(
              (now) => ({ slopes: { low: value, high: now.slopes?.high ?? high } }),
              `Checks: slopes from ${value}`,
            )
          }
        />
        –
        <NumberField
          key={`high ${high}`}
          label="Ratio of slopes at most"
          value={high}
          fits={(value) => value > 1 && value <= 100}
          need="Type a ratio above 1, such as 1.25."
          onCommit={(value) =>
            set(
              (now) => ({ slopes: { low: now.slopes?.low ?? low, high: value } }),
              `Checks: slopes up to ${value}`,
            )
          }
        />
      </Row>
      <Row label="Plateaus within ±">
        <NumberField
          key={`plateaus ${step.plateaus}`}
          label="Difference of plateaus, in percent of the span"
          value={percent(step.plateaus ?? 0.15)}
          fits={share}
          need="Type a percentage above 0 and up to 100."
          onCommit={(value) => set({ plateaus: value / 100 }, `Checks: plateaus ${value} %`)}
        />
        % of the span, whole shape
        <NumberField
          key={`composite ${step.composite}`}
          label="Distance of the whole shape, in percent of the span"
          value={percent(step.composite ?? 0.05)}
          fits={share}
          need="Type a percentage above 0 and up to 100."
          onCommit={(value) => set({ composite: value / 100 }, `Checks: whole shape ${value} %`)}
        />
        %
      </Row>
      <Row label="Interval within">
        <Pick
          label="Interval within"
          value={step.within ? `${step.within.low} – ${step.within.high}` : "any"}
          options={[
            { value: "any", text: "any limits" },
            { value: "95 – 105", text: "95 – 105 %" },
            { value: "80 – 125", text: "80 – 125 %" },
            { value: "64 – 156", text: "64 – 156 %" },
            { value: "50 – 200", text: "50 – 200 %" },
          ]}
          onChange={(value) => {
            const [least, most] = value.split(" – ").map(Number);
            const within = value === "any" ? null : { low: least!, high: most! };
            set({ within }, `Checks: interval within ${value}`);
          }}
        />
        <span className="text-sm text-graphite">of the potency</span>
      </Row>
      <CheckList />
    </>
  );
}
