/* The choices of the steps of a mortality run: counts, line, lethal dose, compare, checks. */

import { Pick } from "../../../ui/Choice";
import { LevelsField } from "../../effects/LevelsField";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";
import { CheckList } from "../../working/CheckList";
import { Fitted } from "../../working/Fitted";
import { IntervalPick, NumberField, PickRow, Row, useStep } from "../../working/fields";

const FOUND = "the column so headed";

export function CountsPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("counts");
  const names = (view.readings.channels ?? []).map((channel) => channel.name);
  const options = [FOUND, ...names].map((value) => ({ value, text: value }));
  const named = (value: string) => (value === FOUND ? "" : value);
  return (
    <>
      <PickRow
        says="Exposed are read from"
        label="Column of exposed"
        value={step.exposed || FOUND}
        options={options}
        onChange={(value) => set({ exposed: named(value) }, `Counts: exposed is ${value}`)}
      />
      <PickRow
        says="Affected are read from"
        label="Column of affected"
        value={step.affected || FOUND}
        options={options}
        onChange={(value) => set({ affected: named(value) }, `Counts: affected is ${value}`)}
      />
      <PickRow
        says="Vessels with the same dose are"
        value={step.pool ?? "vessel"}
        options={[
          { value: "dose", text: "pooled" },
          { value: "vessel", text: "kept apart" },
        ]}
        onChange={(pool) => set({ pool }, `Counts: by ${pool}`)}
      />
    </>
  );
}

export function QuantalPanel() {
  const { curve } = useCurves();
  const { step, set } = useStep("quantal");
  return (
    <>
      <PickRow
        says="The model is"
        label="Link"
        value={step.link ?? "probit"}
        options={[
          { value: "probit", text: "probit" },
          { value: "logit", text: "logit" },
          { value: "cloglog", text: "complementary log-log" },
        ]}
        onChange={(link) => set({ link }, `Line: ${link}`)}
      />
      <PickRow
        says="The dose is taken"
        label="Dose is taken"
        value={step.dose ?? "log"}
        options={[
          { value: "log", text: "as its log10" },
          { value: "linear", text: "as it is" },
        ]}
        onChange={(dose) => set({ dose }, `Line: ${dose} dose`)}
      />
      <PickRow
        says="Deaths among controls are"
        label="Background"
        value={step.background ?? "estimated"}
        options={[
          { value: "estimated", text: "estimated with the line" },
          { value: "abbott", text: "removed by Abbott's correction" },
          { value: "none", text: "ignored" },
        ]}
        onChange={(background) => set({ background }, `Line: background ${background}`)}
      />
      <PickRow
        says="Scatter beyond chance widens"
        label="Scatter beyond chance"
        value={step.scatter ?? "always"}
        options={[
          { value: "always", text: "every interval" },
          { value: "poor", text: "intervals of a poor fit" },
          { value: "beta-binomial", text: "all, as a beta-binomial" },
          { value: "never", text: "nothing" },
        ]}
        onChange={(scatter) => set({ scatter }, `Line: scatter ${scatter}`)}
      />
      {curve.parameters.length > 0 && <Fitted curve={curve} fixed={{}} />}
    </>
  );
}

export function LethalPanel() {
  const { step, set } = useStep("lethal");
  return (
    <>
      <LevelsField
        levels={step.levels ?? [50]}
        onCommit={(levels) => set({ levels }, `Lethal dose: ${levels.join(", ")} %`)}
      />
      <Row label="Its interval is by">
        <Pick
          label="Interval by"
          value={step.method ?? "fieller"}
          options={[
            { value: "fieller", text: "Fieller" },
            { value: "delta", text: "the delta method" },
            { value: "profile", text: "profile" },
          ]}
          onChange={(method) => set({ method }, `Lethal dose: interval by ${method}`)}
        />
        <IntervalPick
          level={step.interval}
          onChange={(interval) => set({ interval }, `Lethal dose: interval ${interval}`)}
        />
      </Row>
      <Row label="Spearman–Kärber is trimmed by">
        <NumberField
          key={step.trim}
          label="Trim of Spearman–Kärber in percent"
          value={step.trim == null ? null : +(100 * step.trim).toPrecision(4)}
          fits={(value) => value > 0 && value < 50}
          need="Type a percentage between 0 and 50."
          onCommit={(value) => set({ trim: value / 100 }, `Lethal dose: trim ${value} %`)}
        />
        % {step.trim == null && "or as little as it takes"}
      </Row>
      <PickRow
        says="The dose is called"
        value={step.symbol ?? "by unit"}
        options={[
          { value: "by unit", text: "LC or LD, by its unit" },
          { value: "LC", text: "LC, lethal concentration" },
          { value: "LD", text: "LD, lethal dose" },
        ]}
        onChange={(symbol) => set({ symbol }, `Lethal dose: called ${symbol}`)}
      />
    </>
  );
}

export function MortalityChecksPanel() {
  const { step, set } = useStep("mortality_checks");
  return (
    <>
      <Row label="Control mortality is at most">
        <NumberField
          key={step.control}
          label="Control mortality up to, in percent"
          value={+(100 * (step.control ?? 0.1)).toPrecision(4)}
          fits={(value) => value >= 0 && value <= 100}
          need="Type a percentage from 0 to 100."
          onCommit={(value) => set({ control: value / 100 }, `Checks: controls ${value} %`)}
        />
        %
      </Row>
      <Row label="Exposed at each dose are at least">
        <NumberField
          key={`exposed ${step.exposed}`}
          label="Exposed at each dose at least"
          value={step.exposed ?? 10}
          fits={(value) => value >= 1 && value <= 100_000}
          need="Type how many, 1 or more."
          onCommit={(value) => set({ exposed: Math.round(value) }, `Checks: ${value} exposed`)}
        />
      </Row>
      <CheckList />
    </>
  );
}
