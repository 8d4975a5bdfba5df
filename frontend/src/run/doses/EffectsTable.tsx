/* The answers of a dose–response run: one row for each series, and what comparing them says. */
import { useState } from "react";
import type { Effect, EffectDose } from "../../api/schema";
import { Button } from "../../ui/Button";
import { Rich } from "../../ui/Rich";
import { SERIES } from "../curve/choices";
import { useWorkspace } from "../workspace";

const HEAD = "px-1.5 py-1 text-right font-normal whitespace-nowrap first:pl-0 first:text-left";
const CELL = "px-1.5 py-1 text-right whitespace-nowrap first:pl-0 first:text-left";

type Key = "name" | "dose" | "slope" | "quality";
const KEYS: Record<Key, (effect: Effect) => number | string | null> = {
  name: (effect) => effect.name,
  dose: (effect) => effect.doses[0]?.relative?.value ?? null,
  slope: (effect) => effect.slope ?? null,
  quality: (effect) => effect.r_squared ?? null,
};
const NAMES = new Intl.Collator("en", { numeric: true });

function arranged(effects: readonly Effect[], by: Key | null, down: boolean): readonly Effect[] {
  if (by === null) return effects;
  const key = KEYS[by];
  return [...effects].sort((a, b) => {
    const [one, other] = [key(a), key(b)];
    if (one === null || other === null) return one === other ? 0 : one === null ? 1 : -1;
    const order = typeof one === "string" ? NAMES.compare(one, String(other)) : one - Number(other);
    return down ? -order : order;
  });
}

export function EffectsTable() {
  const { view, curves, curve, chooseCurve, showNumber } = useWorkspace();
  const { effects = [], comparisons = [], level_unit } = view.revision.outcome;
  const [by, setBy] = useState<Key | null>(null);
  const [down, setDown] = useState(false);
  const [all, setAll] = useState(false);
  const address = `/api/runs/${view.run.id}/answers`;
  const percents = effects[0]?.doses.map((dose) => dose.percent) ?? [];
  const counted = view.revision.method.question === "mortality";
  const symbol = counted
    ? (effects[0]?.symbol ?? "LC")
    : effects.every((effect) => effect.symbol === "IC")
      ? "IC"
      : "EC";
  const raw = view.revision.method.steps.some((step) => step.kind === "dose_curve" && step.of === "raw");
  const heading = (key: Key, text: string) => (
    <button
      type="button"
      className="hover:text-ink"
      onClick={() => {
        setDown(by === key && !down);
        setBy(by === key && down ? null : key);
      }}
    >
      {text}
      {by === key && (down ? " ↓" : " ↑")}
    </button>
  );
  return (
    <>
      <div className="mb-1.5 flex items-baseline gap-3">
        <h2 className="text-lg">Answers</h2>
        <span className="text-graphite">
          {effects.length === 1 ? "1 series" : `${effects.length} series`}
          {level_unit && `, ${level_unit}`}
        </span>
        <span className="ml-auto flex gap-4">
          {!counted && effects.length > 0 && (
            <Button look="text" aria-pressed={all} onClick={() => setAll(!all)}>
              {all ? "Fewer columns" : "More columns"}
            </Button>
          )}
          <a className="text-permanganate hover:underline" href={`${address}.csv`} download>
            CSV
          </a>
          <a className="text-permanganate hover:underline" href={`${address}.xlsx`} download>
            XLSX
          </a>
        </span>
      </div>
      {effects.length === 0 ? (
        <p className="text-graphite">
          {counted
            ? "No lethal dose yet. Say which rows or wells are controls and doses of which series."
            : "No half-effect dose yet. Say which wells are vehicle, full effect and doses of which series."}
        </p>
      ) : (
        <div className="min-h-0 flex-1 overflow-auto">
          <table aria-label="Answers" className="w-full text-md">
            <thead className="sticky top-0 border-b border-rule bg-paper text-sm text-graphite">
              <tr>
                <th className={HEAD}>{heading("name", "Series")}</th>
                {percents.map((percent, i) => (
                  <th
                    key={percent}
                    className={`${HEAD} pr-3`}
                    colSpan={2}
                    title="Between the curve's own plateaus"
                  >
                    {i === 0
                      ? heading("dose", counted ? `${symbol}${percent}` : `${symbol}${percent} relative`)
                      : `${symbol}${percent}`}
                  </th>
                ))}
                {counted ? (
                  <>
                    <th className={HEAD}>{heading("slope", "Slope")}</th>
                    <th className={HEAD} title="Spearman–Kärber, which needs no line">
                      S–K
                    </th>
                    <th className={HEAD} title="Trimmed Spearman–Kärber">
                      trimmed
                    </th>
                    <th className={HEAD}>Fit</th>
                  </>
                ) : (
                  <>
                    <th className={`${HEAD} pr-3`} colSpan={2} title="On the scale of the references">
                      {symbol}
                      {percents[0]} absolute
                    </th>
                    <th className={HEAD} title="A straight line between the two doses around it">
                      between
                    </th>
                    <th className={HEAD}>{heading("slope", "Slope")}</th>
                    <th className={HEAD}>{heading("quality", "R²")}</th>
                    {all && <MoreHeads other={raw ? "normalized" : "raw"} />}
                  </>
                )}
              </tr>
            </thead>
            <tbody>
              {arranged(effects, by, down).map((effect) => {
                const at = curves.findIndex((each) => each.key === effect.name);
                const tag = curves[at]?.tag ?? "";
                const remark = effect.remarks?.[0];
                const said = remark && (
                  <span className="text-sm font-normal text-iodine" title={remark.text}>
                    {remark.short}
                  </span>
                );
                // Where there is no interval, its place says why, and the names stay narrow.
                const inPlace = !effect.doses[0]?.relative?.shown_lower;
                const show = (dose: EffectDose) =>
                  showNumber({
                    id: `${tag}effect.${dose.percent}`,
                    title: `${effect.name}, ${effect.symbol}${dose.percent}`,
                  });
                return (
                  <tr
                    key={effect.series}
                    data-effect={effect.name}
                    className={`border-b border-rule/70 ${curves.length > 1 && effect.name === curve.key ? "bg-permanganate-tint" : ""}`}
                  >
                    <th scope="row" className={`${CELL} font-semibold`}>
                      <button
                        type="button"
                        className="flex items-center gap-1.5"
                        onClick={() => chooseCurve(effect.name)}
                      >
                        <svg viewBox="-6 -6 12 12" className="size-2.5" aria-hidden>
                          <rect
                            x={-4}
                            y={-4}
                            width={8}
                            height={8}
                            fill={SERIES[Math.max(at, 0) % SERIES.length]}
                          />
                        </svg>
                        {effect.name}
                        {remark && !inPlace && said}
                      </button>
                    </th>
                    {effect.doses.map((dose, i) => (
                      <Dose
                        key={dose.percent}
                        value={dose.relative!}
                        strong
                        instead={i === 0 ? said : undefined}
                        onShow={() => show(dose)}
                      />
                    ))}
                    {counted ? (
                      <>
                        <Num full={effect.slope}>{effect.shown_slope ?? "—"}</Num>
                        <Num full={effect.spearman?.value}>{effect.spearman?.shown ?? "—"}</Num>
                        <Num full={effect.trimmed?.value}>{effect.trimmed?.shown ?? "—"}</Num>
                        <Num>{effect.shown_fit || "—"}</Num>
                      </>
                    ) : (
                      <>
                        <Dose value={effect.doses[0]!.absolute!} onShow={() => show(effect.doses[0]!)} />
                        <Num full={effect.doses[0]!.between?.value}>
                          {effect.doses[0]!.between?.shown ?? "—"}
                        </Num>
                        <Num full={effect.slope}>
                          {effect.shape?.slope?.shown ?? effect.shown_slope ?? "—"}
                        </Num>
                        <Num full={effect.r_squared}>
                          {`${effect.about_zero ? "R₀² " : ""}${effect.shown_r_squared ?? "—"}`}
                        </Num>
                        {all && (
                          <>
                            <Num full={effect.other?.value}>{effect.other?.shown ?? "—"}</Num>
                            <Dose value={effect.shape!.minus_log!} onShow={() => show(effect.doses[0]!)} />
                            {(["slope", "lower", "upper"] as const).map((name) => (
                              <Dose
                                key={name}
                                value={effect.shape![name]!}
                                onShow={() =>
                                  showNumber({
                                    id: `${tag}parameter.${name}`,
                                    title: `${effect.name}, ${name}`,
                                  })
                                }
                              />
                            ))}
                            <Dose value={effect.shape!.area!} onShow={() => show(effect.doses[0]!)} />
                          </>
                        )}
                      </>
                    )}
                  </tr>
                );
              })}
            </tbody>
          </table>
          {comparisons.length > 0 && (
            <ul aria-label="Comparisons" className="mt-2 flex flex-col gap-1.5">
              {comparisons.map((each) => (
                <li key={each.name} className="rounded-lg border border-rule bg-chalk px-3 py-2">
                  <Rich text={each.text} />{" "}
                  {each.working && (
                    <Button
                      look="text"
                      onClick={() =>
                        showNumber({ id: each.working!, title: `${each.name} and ${each.reference}` })
                      }
                    >
                      Show working
                    </Button>
                  )}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </>
  );
}

function MoreHeads({ other }: { other: string }) {
  const wide = `${HEAD} pr-3`;
  return (
    <>
      <th className={HEAD} title="Relative, on the other scale: raw beside normalized">
        {other}
      </th>
      <th className={wide} colSpan={2} title="Of mol/L where the unit is molar">
        −log10
      </th>
      <th className={wide} colSpan={2}>
        Slope
      </th>
      <th className={wide} colSpan={2}>
        Lower plateau
      </th>
      <th className={wide} colSpan={2}>
        Upper plateau
      </th>
      <th className={wide} colSpan={2} title="Under the curve, over log10 dose">
        Area
      </th>
    </>
  );
}

interface DoseProps {
  value: NonNullable<EffectDose["relative"]>;
  strong?: boolean;
  /** What stands in the place of an interval that there is not. */
  instead?: React.ReactNode;
  onShow: () => void;
}

function Dose({ value, strong = false, instead, onShow }: DoseProps) {
  return (
    <>
      <td className={CELL} title={value.value == null ? undefined : `In full: ${value.value}`}>
        <button
          type="button"
          title="Show working"
          disabled={value.shown === "—"}
          className={`hover:text-permanganate ${strong ? "font-bold" : ""}`}
          onClick={onShow}
        >
          {value.shown ?? "—"}
        </button>
      </td>
      <td className={`${CELL} text-graphite`}>
        {value.shown_lower ? between(value.shown_lower, value.shown_upper ?? "") : instead}
      </td>
    </>
  );
}

/** Both ends; a dash between numbers below zero would be one sign too many. */
function between(lower: string, upper: string): string {
  return `${lower} ${lower.startsWith("−") || upper.startsWith("−") ? "to" : "–"} ${upper}`;
}

function Num({ children, full }: { children: string; full?: number | null | undefined }) {
  return (
    <td className={CELL} title={full == null ? undefined : `In full: ${full}`}>
      {children}
    </td>
  );
}
