/* The choices of the steps of a dose–response run: normalize, curve, half effect, compare, checks. */
import { Pick } from "../../ui/Choice";
import { INTERVALS, NumberField, ON_OFF, Row, useStep } from "../working/fields";
import { CheckList } from "../working/panels";
import { useWorkspace } from "../workspace";
import { LevelsField } from "./fields";

const SOURCES = [
  { value: "vehicle", text: "vehicle wells" },
  { value: "full_effect", text: "full-effect wells" },
  { value: "first_level", text: "lowest dose" },
  { value: "last_level", text: "highest dose" },
  { value: "smaller_end", text: "smaller of the two ends" },
  { value: "larger_end", text: "larger of the two ends" },
  { value: "smallest_mean", text: "smallest mean" },
  { value: "largest_mean", text: "largest mean" },
  { value: "typed", text: "typed" },
] as const;
const MORE = [
  { value: "sum", text: "sum of all means" },
  { value: "mean", text: "mean of all means" },
] as const;

export function NormalizePanel() {
  const { view } = useWorkspace();
  const { step, set } = useStep("normalize");
  return (
    <>
      <Row label="100 % is">
        <Pick
          label="100 % is"
          value={step.hundred ?? "vehicle"}
          options={[...SOURCES, ...MORE]}
          onChange={(hundred) => set({ hundred }, `Normalize: 100 % by ${hundred}`)}
        />
        {step.hundred === "typed" && (
          <NumberField
            label="Reading that counts as 100 %"
            value={step.typed_hundred ?? null}
            onCommit={(value) => set({ typed_hundred: value }, `Normalize: 100 % is ${value}`)}
          />
        )}
      </Row>
      <Row label="0 % is">
        <Pick
          label="0 % is"
          value={step.nought ?? "full_effect"}
          options={SOURCES}
          onChange={(nought) => set({ nought }, `Normalize: 0 % by ${nought}`)}
        />
        {step.nought === "typed" && (
          <NumberField
            label="Reading that counts as 0 %"
            value={step.typed_nought ?? null}
            onCommit={(value) => set({ typed_nought: value }, `Normalize: 0 % is ${value}`)}
          />
        )}
      </Row>
      <Row label="Over">
        <Pick
          label="References over"
          value={step.per ?? "run"}
          options={[
            { value: "run", text: "the whole run" },
            { value: "series", text: "each series" },
          ]}
          onChange={(per) => set({ per }, `Normalize: references of each ${per}`)}
        />
      </Row>
      <Row label="Of">
        <Pick
          label="Normalize"
          value={step.average_first ? "means" : "each"}
          options={[
            { value: "each", text: "each replicate" },
            { value: "means", text: "the means" },
          ]}
          onChange={(of) => set({ average_first: of === "means" }, `Normalize: ${of}`)}
        />
      </Row>
      <Row label="As">
        <Pick
          label="Normalized as"
          value={step.scale ?? "percent"}
          options={[
            { value: "percent", text: "percent" },
            { value: "fraction", text: "fraction" },
          ]}
          onChange={(scale) => set({ scale }, `Normalize: ${scale}`)}
        />
      </Row>
      <Row label="References">
        <Pick
          label="Doses that are references are"
          value={step.references ?? "shown"}
          options={[
            { value: "shown", text: "on the curve" },
            { value: "hidden", text: "left out" },
          ]}
          onChange={(references) => set({ references }, `Normalize: references ${references}`)}
        />
      </Row>
      <Row label="Step is">
        <Pick
          label="Normalize step"
          value={step.on ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ on: on === "on" }, `Normalize: ${on}`)}
        />
      </Row>
      <BeforeAfter key={view.revision.number} />
    </>
  );
}

/** Small pictures of the responses as read and normalized, all series in the same frame. */
function BeforeAfter() {
  const { view } = useWorkspace();
  const { layout, outcome } = view.revision;
  const read = new Map(view.readings.readings.map((each) => [each.id, each.value ?? null]));
  const after = new Map(outcome.readings.map((each) => [each.id, each.corrected ?? null]));
  const series = [...new Set(layout.groups.filter((g) => g.role === "dose").map((g) => g.series ?? ""))];
  if (series.length === 0 || series.length > 12) return null;
  const lines = (values: ReadonlyMap<number, number | null>) =>
    series.map((name) =>
      layout.groups
        .filter((group) => group.role === "dose" && group.series === name && group.level != null)
        .sort((a, b) => a.level! - b.level!)
        .flatMap((group) => {
          const own = group.readings.flatMap((id) => values.get(id) ?? []);
          return own.length ? [own.reduce((sum, value) => sum + value, 0) / own.length] : [];
        }),
    );
  return (
    <div className="mt-2 grid grid-cols-2 gap-2">
      <Small text="as read" lines={lines(read)} />
      <Small text="normalized" lines={lines(after)} />
    </div>
  );
}

function Small({ text, lines }: { text: string; lines: readonly number[][] }) {
  const all = lines.flat();
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const path = (line: readonly number[]) =>
    line
      .map((value, i) => {
        const x = 6 + (88 * i) / Math.max(line.length - 1, 1);
        return `${i ? "L" : "M"}${x.toFixed(1)} ${(40 - (34 * (value - low)) / (high - low || 1)).toFixed(1)}`;
      })
      .join("");
  return (
    <figure className="rounded-lg border border-rule bg-chalk p-1 text-center text-sm text-graphite">
      <svg viewBox="0 0 100 44" role="img" aria-label={`Responses ${text}`} className="w-full">
        {lines.map((line, i) => (
          <path
            key={i}
            d={path(line)}
            fill="none"
            stroke={i % 2 ? "var(--color-iodine)" : "var(--color-cupric)"}
            strokeWidth={1.4}
          />
        ))}
      </svg>
      <figcaption>{text}</figcaption>
    </figure>
  );
}

export function EffectsPanel() {
  const { step, set } = useStep("effects");
  return (
    <>
      <LevelsField
        levels={step.levels ?? [50]}
        onCommit={(levels) => set({ levels }, `Effects: ${levels.join(", ")} %`)}
      />
      <Row label="Interval">
        <Pick
          label="Interval by"
          value={step.method ?? "wald"}
          options={[
            { value: "wald", text: "log scale" },
            { value: "profile", text: "profile" },
          ]}
          onChange={(method) => set({ method }, `Effects: interval by ${method}`)}
        />
        <Pick
          label="Level of the interval"
          value={String(step.interval ?? 0.95) as "0.95"}
          options={INTERVALS}
          onChange={(level) => set({ interval: Number(level) }, `Effects: interval ${level}`)}
        />
      </Row>
      <Row label="Extrapolate">
        <Pick
          label="Extrapolate"
          value={step.extrapolate ? "on" : "off"}
          options={ON_OFF}
          onChange={(on) => set({ extrapolate: on === "on" }, `Effects: extrapolate ${on}`)}
        />
      </Row>
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
      <CheckList />
    </>
  );
}
