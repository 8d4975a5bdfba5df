/* The choices of the steps of a dose–response run: half effect and checks. */
import { Pick } from "../../../ui/Choice";
import { LevelsField } from "../../effects/LevelsField";
import { CheckList } from "../../working/CheckList";
import {
  BEYOND,
  IntervalPick,
  NumberField,
  OptionalNumber,
  PickRow,
  Row,
  useStep,
} from "../../working/fields";

export function EffectsPanel() {
  const { step, set } = useStep("effects");
  return (
    <>
      <LevelsField
        levels={step.levels ?? [50]}
        onCommit={(levels) => set({ levels }, `Effects: ${levels.join(", ")} %`)}
      />
      <Row label="Its interval is by">
        <Pick
          label="Interval by"
          value={step.method ?? "wald"}
          options={[
            { value: "wald", text: "on the log scale" },
            { value: "profile", text: "by profile likelihood" },
          ]}
          onChange={(method) => set({ method }, `Effects: interval by ${method}`)}
        />
        <IntervalPick
          level={step.interval}
          onChange={(interval) => set({ interval }, `Effects: interval ${interval}`)}
        />
      </Row>
      <PickRow
        says="Beyond the doses it is"
        label="Extrapolate"
        value={step.extrapolate ? "on" : "off"}
        options={BEYOND}
        onChange={(on) => set({ extrapolate: on === "on" }, `Effects: extrapolate ${on}`)}
      />
    </>
  );
}

export function DoseChecksPanel() {
  const { step, set } = useStep("dose_checks");
  return (
    <>
      <Row label="Z′ at least">
        <NumberField
          key={step.z_prime}
          label="Z′ at least"
          value={step.z_prime ?? 0.5}
          fits={(value) => value <= 1 && value >= -1}
          need="Type a number from −1 to 1, such as 0.5."
          onCommit={(value) => set({ z_prime: value }, `Checks: Z′ ${value}`)}
        />
      </Row>
      <Row label="SD up to">
        <NumberField
          key={`spread ${step.spread}`}
          label="SD of replicates up to, in percent of the span"
          value={+(100 * (step.spread ?? 0.15)).toPrecision(4)}
          fits={(value) => value > 0 && value <= 100}
          need="Type a percentage above 0 and up to 100."
          onCommit={(value) => set({ spread: value / 100 }, `Checks: SD ${value} %`)}
        />
        % of the span
      </Row>
      <Row label="CV of controls up to">
        <OptionalNumber
          key={`control ${step.control_cv}`}
          label="CV of controls up to, in percent"
          value={step.control_cv == null ? null : +(100 * step.control_cv).toPrecision(4)}
          fits={(value) => value > 0 && value <= 1000}
          need="Type a percentage above 0, or nothing where it is not judged."
          onCommit={(value) =>
            set(
              { control_cv: value === null ? null : value / 100 },
              `Checks: CV of controls ${value ?? "any"}`,
            )
          }
        />
        %
      </Row>
      <CheckList />
    </>
  );
}
