/* The choices of the other steps: signal, blank, scale, rates, against level, checks. */
import { Button } from "../../../ui/Button";
import { ComparePanel } from "../../effects/ComparePanel";
import { useOpenRun } from "../../state/open";
import { CheckList } from "../../working/CheckList";
import { Fitted } from "../../working/Fitted";
import {
  DraftField,
  IntervalPick,
  NumberField,
  OptionalNumber,
  PickRow,
  Row,
  useStep,
} from "../../working/fields";

const WORDS = "w-[132px]";

export function SignalPanel() {
  const { step, set } = useStep("course_signal");
  const text = (label: string, given: string, onCommit: (text: string) => void, need = "Type a word.") => (
    <DraftField
      key={given}
      label={label}
      given={given}
      read={(typed) => typed.trim()}
      need={need}
      onCommit={(next) => next !== given && onCommit(next)}
      className={WORDS}
    />
  );
  return (
    <>
      <Row label="y is">
        {text("y computed from y and t", step.y ?? "", (y) => set({ y }, `Signal: y = ${y || "as read"}`))}
        <span className="text-sm text-graphite">
          empty: as read; −log10(y/100) from percent transmittance
        </span>
      </Row>
      <Row label="called">
        {text("Name of y", step.y_name ?? "", (y_name) => set({ y_name }, `Signal: called ${y_name}`))}
        in
        {text("Unit of y", step.y_unit ?? "", (y_unit) =>
          set({ y_unit: y_unit || null }, `Signal: in ${y_unit || "its own unit"}`),
        )}
      </Row>
      <Row label="Time in">
        {text("Unit of time", step.time_unit ?? "", (time_unit) =>
          set({ time_unit: time_unit || null }, `Signal: time in ${time_unit || "its own unit"}`),
        )}
        <span className="text-sm text-graphite">s, min, h or d; empty: as read</span>
      </Row>
    </>
  );
}

const TAKES = [
  { value: "wells", text: "the mean course of the blanks" },
  { value: "start", text: "its own first point" },
  { value: "typed", text: "a typed level" },
  { value: "none", text: "nothing" },
] as const;

export function CourseBlankPanel() {
  const { step, set } = useStep("course_blank");
  return (
    <>
      <PickRow
        says="From each course is taken"
        label="Subtracted"
        value={step.take ?? "wells"}
        options={TAKES}
        onChange={(take) => set({ take }, `Blank: ${TAKES.find((each) => each.value === take)!.text}`)}
      />
      {step.take === "typed" && (
        <Row label="Level">
          <NumberField
            key={step.typed}
            label="Blank level"
            value={step.typed ?? null}
            onCommit={(typed) => set({ typed }, `Blank: ${typed}`)}
          />
        </Row>
      )}
    </>
  );
}

const PARTS = [
  { key: "absorptivity", text: "÷ absorptivity", hint: "or signal per concentration" },
  { key: "path", text: "÷ path", hint: "" },
  { key: "volume", text: "× volume", hint: "of the reaction" },
  { key: "amount", text: "÷ amount", hint: "such as protein" },
] as const;

export function ScalePanel() {
  const { step, set } = useStep("scale");
  return (
    <>
      {PARTS.map(({ key, text, hint }) => {
        const part = step[key] ?? {};
        return (
          <Row key={key} label={text}>
            <OptionalNumber
              key={String(part.value)}
              label={`${text.slice(2)} value`}
              value={part.value ?? null}
              fits={(value) => value > 0}
              need="Type a number above zero, or nothing to leave it out."
              onCommit={(value) =>
                set({ [key]: { ...part, value } }, `Scale: ${text} ${value ?? "left out"}`)
              }
            />
            <DraftField
              key={part.unit}
              label={`${text.slice(2)} unit`}
              given={part.unit ?? ""}
              read={(typed) => typed.trim()}
              need="Type a unit."
              onCommit={(unit) =>
                unit !== part.unit && set({ [key]: { ...part, unit } }, `Scale: ${text} in ${unit}`)
              }
              className="w-[84px]"
            />
            {hint && <span className="text-sm text-graphite">{hint}</span>}
          </Row>
        );
      })}
      <Row label="Rates in">
        <DraftField
          key={step.to}
          label="Unit of the rates"
          given={step.to ?? ""}
          read={(typed) => typed.trim()}
          need="Type a unit, or nothing for the usual one."
          onCommit={(to) => to !== step.to && set({ to }, `Scale: in ${to || "the usual unit"}`)}
          className={WORDS}
        />
        <span className="text-sm text-graphite">such as µmol/min/mg; empty: the usual one</span>
      </Row>
      <PickRow
        says="Falling courses give rates"
        label="Sign of the rates"
        value={step.positive ? "positive" : "signed"}
        options={[
          { value: "signed", text: "below zero" },
          { value: "positive", text: "above zero" },
        ]}
        onChange={(sign) => set({ positive: sign === "positive" }, `Scale: falls ${sign}`)}
      />
    </>
  );
}

const DIGITS = [
  { value: "", text: "as intervals decide" },
  ...[2, 3, 4, 5].map((n) => ({ value: String(n), text: `${n} significant digits` })),
];

export function RatesPanel() {
  const { step, set } = useStep("rates");
  return (
    <>
      <PickRow
        says="Shown to"
        label="Digits of the rates"
        value={step.digits == null ? "" : String(step.digits)}
        options={DIGITS}
        onChange={(digits) =>
          set({ digits: digits === "" ? null : Number(digits) }, `Rates: ${digits || "own"} digits`)
        }
      />
      <Row label="Intervals of">
        <IntervalPick level={step.level} onChange={(level) => set({ level }, `Rates: interval ${level}`)} />
      </Row>
      <Row label="Replicates agree up to a CV of">
        <NumberField
          key={step.cv_limit}
          label="CV limit of replicate courses in percent"
          value={+(100 * (step.cv_limit ?? 0.2)).toPrecision(6)}
          fits={(value) => value > 0 && value <= 1000}
          need="Type a percentage above zero."
          onCommit={(percent) => set({ cv_limit: percent / 100 }, `Rates: CV limit ${percent} %`)}
        />
        %
      </Row>
    </>
  );
}

const MODELS = [
  { value: "off", text: "off" },
  { value: "hyperbola", text: "saturation (Vmax, Km)" },
  { value: "substrate_inhibition", text: "substrate inhibition" },
  { value: "hill", text: "saturation with a Hill slope" },
  { value: "hyperbola_offset", text: "saturation with an offset" },
  { value: "inhibition", text: "inhibitor: one fit of all series" },
  { value: "optimum", text: "optimum (temperature, pH)" },
  { value: "gaussian", text: "peak, even on both sides" },
  { value: "arrhenius", text: "Arrhenius (x in °C or K)" },
  { value: "line", text: "straight line" },
  { value: "line_through_zero", text: "line through zero" },
  { value: "quadratic", text: "parabola" },
] as const;
const KINDS = [
  { value: "best", text: "the best by AICc" },
  { value: "competitive", text: "competitive" },
  { value: "uncompetitive", text: "uncompetitive" },
  { value: "noncompetitive", text: "noncompetitive" },
  { value: "mixed", text: "mixed" },
] as const;
const WEIGHTS = [
  { value: "none", text: "nothing: all alike" },
  { value: "1/y", text: "1/y" },
  { value: "1/y^2", text: "1/y²" },
  { value: "1/yhat^2", text: "1/ŷ²" },
] as const;

export function AgainstPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("against_level");
  const { part } = view.revision.outcome;
  const quantities = part.kind === "rate" ? (part.quantities ?? []) : [];
  const against = part.kind === "rate" ? (part.against ?? []) : [];
  const of = step.of || quantities[0]?.id || "";
  const inhibited = step.model === "inhibition";
  return (
    <div className="flex flex-col gap-1">
      <PickRow
        says="The curve is"
        label="Curve against the level"
        value={(step.model ?? "off") as (typeof MODELS)[number]["value"]}
        options={MODELS}
        onChange={(model) => set({ model }, `Against level: ${MODELS.find((m) => m.value === model)!.text}`)}
      />
      {step.model !== "off" && (
        <>
          {quantities.length > 1 && (
            <PickRow
              says="of"
              label="What is held against the level"
              value={of}
              options={quantities.map((each) => ({ value: each.id, text: each.name }))}
              onChange={(next) => set({ of: next }, `Against level: ${next}`)}
            />
          )}
          {inhibited ? (
            <>
              <PickRow
                says="Inhibition is"
                label="Kind of inhibition"
                value={step.inhibited ?? "best"}
                options={KINDS}
                onChange={(next) => set({ inhibited: next }, `Against level: ${next}`)}
              />
              {against.map((each) => (
                <Row key={each.key} label={`Inhibitor in ${each.key || "the series"}`}>
                  <NumberField
                    key={String(step.inhibitors?.[each.key ?? ""])}
                    label={`Inhibitor level of ${each.key}`}
                    value={step.inhibitors?.[each.key ?? ""] ?? null}
                    fits={(value) => value >= 0}
                    need="Type a level, zero or above."
                    onCommit={(level) =>
                      set(
                        { inhibitors: { ...step.inhibitors, [each.key ?? ""]: level } },
                        `Against level: ${each.key} at ${level}`,
                      )
                    }
                  />
                </Row>
              ))}
            </>
          ) : (
            <PickRow
              says="Each is weighted by"
              label="Weights of the rates"
              value={step.weights ?? "none"}
              options={WEIGHTS}
              onChange={(weights) => set({ weights }, `Against level: weights ${weights}`)}
            />
          )}
          <PickRow
            says="It goes through"
            label="Points of the curve against the level"
            value={step.fit_to ?? "courses"}
            options={[
              { value: "courses", text: "every course" },
              { value: "means", text: "the mean of each group" },
            ]}
            onChange={(fit_to) => set({ fit_to }, `Against level: through ${fit_to}`)}
          />
          {!inhibited && (
            <PickRow
              says="Intervals by"
              label="Method of the intervals"
              value={step.interval ?? "profile"}
              options={[
                { value: "profile", text: "profile likelihood" },
                { value: "wald", text: "standard errors" },
              ]}
              onChange={(interval) => set({ interval }, `Against level: intervals by ${interval}`)}
            />
          )}
          {against[0] && (against[0].with_numbers || against[0].candidates.length > 0) && (
            <Fitted curve={against[0]} fixed={{}} />
          )}
        </>
      )}
    </div>
  );
}

export function CompareRatesPanel() {
  const { view } = useOpenRun();
  const { answers, part } = view.revision.outcome;
  const against = part.kind === "rate" ? (part.against ?? []) : [];
  const names =
    against.length > 1 ? against.map((each) => each.key ?? "") : (answers.rows ?? []).map((row) => row.name);
  return <ComparePanel kind="compare_rates" names={names} unnamed="all" />;
}

export function RateChecksPanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("rate_checks");
  const { set: setCourse } = useStep("course");
  const short = view.revision.outcome.checks.find((check) => check.id === "steeper");
  const percent = (key: "noise" | "used_up" | "steeper", text: string, given: number) => (
    <Row label={text}>
      <NumberField
        key={step[key]}
        label={`${text} in percent`}
        value={+(100 * (step[key] ?? given)).toPrecision(6)}
        fits={(value) => value > 0 && value <= (key === "used_up" ? 100 : 1000)}
        need="Type a percentage above zero."
        onCommit={(value) => set({ [key]: value / 100 }, `Checks: ${text.toLowerCase()} ${value} %`)}
      />
      %
    </Row>
  );
  return (
    <>
      <Row label="Straight from p">
        <NumberField
          key={step.straight}
          label="p of a bend from which courses are straight"
          value={step.straight ?? 0.05}
          fits={(value) => value > 0 && value < 1}
          need="Type a number between 0 and 1, such as 0.05."
          onCommit={(straight) => set({ straight }, `Checks: straight from p ${straight}`)}
        />
      </Row>
      <Row label="Points at least">
        <NumberField
          key={`least ${step.least}`}
          label="Points at least"
          value={step.least ?? 5}
          fits={(value) => Number.isInteger(value) && value >= 2 && value <= 1000}
          need="Type a whole number from 2."
          onCommit={(least) => set({ least }, `Checks: ${least} points`)}
        />
      </Row>
      {percent("noise", "Standard error up to", 0.1)}
      {percent("used_up", "Substrate used up at most", 0.1)}
      {percent("steeper", "The start differs by at most", 0.05)}
      {short?.state === "look" && (
        <Button look="text" onClick={() => setCourse({ by: "start" }, "Course: slope at the start")}>
          Take the slope at the start
        </Button>
      )}
      <CheckList />
    </>
  );
}
