/* Two questions put every response on one scale: what counts as no effect, and what counts as full effect. */

import type { NormalizeStep, ReferenceOutcome } from "../../../api/schema";
import { Pick } from "../../../ui/Choice";
import { useOpenRun } from "../../state/open";
import { NumberField, ON_OFF, PickRow, useStep } from "../../working/fields";

type Source = NonNullable<NormalizeStep["no_effect"]>;
const WELLS = "Control wells";
const OWN = "The readings themselves";
const SOURCES: { value: Source; text: string; group: string }[] = [
  { value: "vehicle", text: "what the vehicle wells read", group: WELLS },
  { value: "full_effect", text: "what the full-effect wells read", group: WELLS },
  { value: "greatest_level", text: "the dose that reads most", group: OWN },
  { value: "least_level", text: "the dose that reads least", group: OWN },
  { value: "lowest_dose", text: "the lowest dose", group: OWN },
  { value: "highest_dose", text: "the highest dose", group: OWN },
  { value: "higher_end", text: "lowest or highest dose, what reads higher", group: OWN },
  { value: "lower_end", text: "lowest or highest dose, what reads lower", group: OWN },
];
const TOGETHER: typeof SOURCES = [
  { value: "average", text: "the average of all doses", group: "All doses together" },
  { value: "total", text: "the total of all doses", group: "All doses together" },
];
const TYPED: typeof SOURCES = [{ value: "typed", text: "a reading I type", group: "A number" }];
const SCOPES = [
  { value: "each", text: "by itself, where it has its controls" },
  { value: "plate", text: "by itself" },
  { value: "series", text: "with its series" },
  { value: "run", text: "with the whole run" },
] as const;

export function NormalizePanel() {
  const { view } = useOpenRun();
  const { step, set } = useStep("normalize");
  return (
    <>
      <Question
        text="What counts as no effect?"
        source={step.no_effect ?? "vehicle"}
        options={[...SOURCES, ...TOGETHER, ...TYPED]}
        typed={step.typed_no_effect ?? null}
        onSource={(no_effect) => set({ no_effect }, "Normalize: what counts as no effect")}
        onType={(value) => set({ typed_no_effect: value }, `Normalize: ${value} counts as no effect`)}
      />
      <Question
        text="What counts as full effect?"
        source={step.full_effect ?? "full_effect"}
        options={[...SOURCES, ...TYPED]}
        typed={step.typed_full_effect ?? null}
        onSource={(full_effect) => set({ full_effect }, "Normalize: what counts as full effect")}
        onType={(value) => set({ typed_full_effect: value }, `Normalize: ${value} counts as full effect`)}
      />
      <PickRow
        says="Each plate is normalized"
        value={step.per ?? "each"}
        options={SCOPES}
        onChange={(per) => set({ per }, `Normalize: by ${per}`)}
      />
      <PickRow
        says="Replicates are"
        value={step.average_first ? "means" : "each"}
        options={[
          { value: "each", text: "each put on the scale" },
          { value: "means", text: "averaged first" },
        ]}
        onChange={(of) => set({ average_first: of === "means" }, `Normalize: ${of}`)}
      />
      <PickRow
        says="No effect is shown as"
        value={step.scale ?? "percent"}
        options={[
          { value: "percent", text: "100 %" },
          { value: "fraction", text: "1" },
        ]}
        onChange={(scale) => set({ scale }, `Normalize: ${scale}`)}
      />
      <PickRow
        says="A dose that sets the scale is"
        value={step.references ?? "shown"}
        options={[
          { value: "shown", text: "kept on the curve" },
          { value: "hidden", text: "left out of the curve" },
        ]}
        onChange={(references) => set({ references }, `Normalize: references ${references}`)}
      />
      <PickRow
        says="This step is"
        label="Normalize step"
        value={step.on ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ on: on === "on" }, `Normalize: ${on}`)}
      />
      <BeforeAfter key={view.revision.number} />
    </>
  );
}

interface QuestionProps {
  text: string;
  source: Source;
  options: typeof SOURCES;
  typed: number | null;
  onSource: (source: Source) => void;
  onType: (value: number) => void;
}

function Question({ text, source, options, typed, onSource, onType }: QuestionProps) {
  return (
    <div className="py-0.5">
      <p className="font-semibold">{text}</p>
      <div className="flex flex-wrap items-center gap-x-1.5">
        <Pick label={text} value={source} options={options} onChange={onSource} />
        {source === "typed" && <NumberField label={`${text} This reading`} value={typed} onCommit={onType} />}
      </div>
    </div>
  );
}

/** Small pictures of the responses as read and on the scale, all series in the same frame. */
function BeforeAfter() {
  const { view } = useOpenRun();
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
  const references = outcome.part.kind === "dose" ? (outcome.part.references ?? []) : [];
  return (
    <div className="mt-2 grid grid-cols-2 gap-2">
      <Small text="as read" lines={lines(read)} references={references} values={read} />
      <Small text="on the scale" lines={lines(after)} references={references} values={after} />
      {references.length > 0 && (
        <p className="col-span-2 text-sm text-graphite">
          <span className="text-malachite">▲</span> readings that count as no effect,{" "}
          <span className="text-cinnabar">▼</span> as full effect.
        </p>
      )}
    </div>
  );
}

interface SmallProps {
  text: string;
  lines: readonly number[][];
  references: readonly ReferenceOutcome[];
  values: ReadonlyMap<number, number | null>;
}

function Small({ text, lines, references, values }: SmallProps) {
  const marks = references.flatMap(({ end, readings = [] }) =>
    readings.flatMap((id) => {
      const value = values.get(id);
      return value == null ? [] : [{ id, end, value }];
    }),
  );
  const all = [...lines.flat(), ...marks.map((mark) => mark.value)];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const y = (value: number) => 40 - (34 * (value - low)) / (high - low || 1);
  const path = (line: readonly number[]) =>
    line
      .map((value, i) => {
        const x = 14 + (72 * i) / Math.max(line.length - 1, 1);
        return `${i ? "L" : "M"}${x.toFixed(1)} ${y(value).toFixed(1)}`;
      })
      .join("");
  return (
    <figure className="rounded-lg border border-rule bg-chalk p-1 text-center text-sm text-graphite">
      <svg
        viewBox="0 0 100 44"
        role="img"
        aria-label={`Responses ${text}, with ${marks.length} readings that set the scale`}
        className="w-full"
      >
        {lines.map((line, i) => (
          <path
            key={i}
            d={path(line)}
            fill="none"
            stroke={i % 2 ? "var(--color-iodine)" : "var(--color-cupric)"}
            strokeWidth={1.4}
          />
        ))}
        {marks.map(({ id, end, value }) => (
          <path
            key={`${end} ${id}`}
            d={end === "none" ? "M-2 1.5L0 -2L2 1.5Z" : "M-2 -1.5L0 2L2 -1.5Z"}
            transform={`translate(${end === "none" ? 5 : 95},${y(value).toFixed(1)})`}
            fill={end === "none" ? "var(--color-malachite)" : "var(--color-cinnabar)"}
          />
        ))}
      </svg>
      <figcaption>{text}</figcaption>
    </figure>
  );
}
