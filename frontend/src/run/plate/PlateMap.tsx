/* The plate: every well with what it is and what was read, selected by mouse and keyboard alike. */

import { useMemo, useRef, useState } from "react";
import type { Group, Layout, Reading } from "../../api/schema";
import { useSize } from "../../plot/useSize";
import { isOnCurve, useCurves } from "../state/curves";
import { hover } from "../state/hover";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { fitting } from "./fitting";
import { rowLetters, type Spot, wellName } from "./geometry";
import { bothWays, shadeOf } from "./shade";
import { usePlateKeys } from "./usePlateKeys";
import { describeWell, Well } from "./Well";

/** What wells show; "of:" and an id is a quantity that was found of every course. */
export type Shown =
  | "role"
  | "raw"
  | "corrected"
  | "result"
  | "cv"
  | "deviation"
  | "outliers"
  | `of:${string}`;
const LABEL = 22;
const GAP = 2;

interface Props {
  plate: number;
  shown: Shown;
  shaded: boolean;
  zoom: number;
  /** A layout being tried, drawn in place of the run's own. */
  trial: Layout | null;
}

export function PlateMap({ plate, shown, shaded, zoom, trial }: Props) {
  const { view, outcomes, excluded } = useOpenRun();
  const { wells: chosen, chooseWells } = useSelection();
  const { curve, curves } = useCurves();
  const frame = useRef<HTMLDivElement>(null);
  const { width } = useSize(frame);
  const [focus, setFocus] = useState<Spot>({ row: 0, column: 0 });
  const [over, setOver] = useState<Spot | null>(null);
  const size = view.readings.plates![plate]!;
  const wells = useMemo(
    () => view.readings.readings.filter((reading) => reading.plate === plate),
    [view.readings, plate],
  );
  const own = useMemo(() => byReading(view.revision.layout), [view.revision.layout]);
  const tried = useMemo(() => (trial ? byReading(trial) : own), [trial, own]);
  const results = useMemo(
    () => new Map((view.revision.outcome.groups ?? []).map((group) => [group.id, group])),
    [view.revision.outcome],
  );
  const { part } = view.revision.outcome;
  const found = useMemo(() => {
    if (part.kind !== "rate" || !shown.startsWith("of:")) return null;
    const quantity = (part.quantities ?? []).find((each) => `of:${each.id}` === shown);
    const at = new Map((part.courses ?? []).map((id, i) => [id, i]));
    return quantity ? { quantity, at } : null;
  }, [part, shown]);
  const shownOf = (reading: Reading): [number | null | undefined, string] => {
    const group = own.get(reading.id);
    const result = group && results.get(group.id);
    const outcome = outcomes.get(reading.id);
    if (found) {
      const i = found.at.get(reading.id);
      return i === undefined ? [null, ""] : [found.quantity.values[i], found.quantity.shown[i] ?? ""];
    }
    switch (shown) {
      case "role":
        return [null, reading.text || "—"];
      case "corrected":
        return [outcome?.corrected, outcome?.shown ?? "—"];
      case "result":
        return [result?.result, result?.shown_result ?? ""];
      case "deviation":
        return [outcome?.deviation, outcome?.shown_deviation ?? ""];
      case "cv":
        return [result?.cv, result?.cv == null ? "" : `${result.shown_cv} %`];
      default:
        return [reading.value, reading.text || "—"];
    }
  };
  // Where there are several curves, the wells of the one looked at are told from the others.
  const its = useMemo(() => (curves.length < 2 ? null : isOnCurve(view, curve)), [curve, curves, view]);
  const values = wells.map(shownOf);
  const shade =
    shown === "deviation"
      ? bothWays(values.map((v) => v[0]))
      : !shaded || shown === "role" || shown === "outliers"
        ? null
        : shadeOf(values.map((v) => v[0]));
  const keys = usePlateKeys({
    wells,
    rows: size.rows,
    columns: size.columns,
    chosen,
    choose: (ids) => chooseWells(ids),
    focus,
    setFocus,
  });
  const cell = Math.max(((width - LABEL - 4) / size.columns - GAP) * zoom, 8);
  const height =
    cell >= 42 ? Math.min(cell * 0.8, 40) : cell >= 27 ? (size.rows > 8 ? 26 : 30) : Math.max(cell, 9);
  const columns = Array.from({ length: size.columns }, (_, i) => i);
  const wellAt = (spot: Spot) => wells[spot.row * size.columns + spot.column];
  const focused = wellAt(focus);
  const described = (well: Reading | undefined) => {
    if (!well) return "";
    const group = own.get(well.id);
    const outcome = outcomes.get(well.id);
    const why = outcome?.why || outcome?.aside || "";
    const { question } = view.revision.method;
    return `${wellName(well)}: ${describeWell(group?.role ?? null, group?.name ?? "", well.text, why, question)}`;
  };
  const allChosen = (of: readonly Reading[]) => of.length > 0 && of.every((w) => chosen.has(w.id));
  return (
    <div className="flex min-h-0 flex-col">
      <div ref={frame} className="min-h-0 overflow-auto select-none">
        <div
          role="grid"
          tabIndex={0}
          aria-label={`${size.name || "Plate"}: arrows move, Shift selects, X excludes, A assigns`}
          aria-multiselectable
          aria-activedescendant={`well-${focus.row}-${focus.column}`}
          {...keys}
          onPointerOver={(event) => {
            keys.onPointerOver(event);
            const well = (event.target as HTMLElement).closest<HTMLElement>("[role=gridcell]");
            const [row, column] = (well?.dataset.part ?? "").split(":").map(Number);
            setOver(well && row !== undefined && column !== undefined ? { row, column } : null);
          }}
          onPointerLeave={() => {
            hover(null);
            setOver(null);
          }}
          className="inline-grid rounded-md p-0.5 -outline-offset-1"
          style={{
            gridTemplateColumns: `${LABEL}px repeat(${size.columns}, ${cell}px)`,
            gap: GAP,
          }}
        >
          <div role="row" className="contents">
            <Heading part=":" text="" label="Whole plate" on={allChosen(wells)} />
            {columns.map((c) => (
              <Heading
                key={c}
                part={`:${c}`}
                text={cell >= 14 || (c + 1) % 4 === 0 || c === 0 ? String(c + 1) : ""}
                label={`Column ${c + 1}`}
                on={allChosen(wells.filter((w) => w.column === c))}
              />
            ))}
          </div>
          {Array.from({ length: size.rows }, (_, r) => (
            <div role="row" className="contents" key={r}>
              <Heading
                part={`${r}:`}
                text={rowLetters(r)}
                label={`Row ${rowLetters(r)}`}
                on={allChosen(wells.slice(r * size.columns, (r + 1) * size.columns))}
              />
              {wells.slice(r * size.columns, (r + 1) * size.columns).map((well, c) => {
                const group = tried.get(well.id);
                const [value, text] = values[r * size.columns + c]!;
                const outcome = outcomes.get(well.id);
                const out = excluded.has(well.id);
                return (
                  <Well
                    key={well.id}
                    part={`${r}:${c}`}
                    name={wellName(well)}
                    size={cell}
                    height={height}
                    role={group?.role ?? null}
                    label={group ? short(group, shown) : ""}
                    text={
                      trial && group?.level != null
                        ? fitting(String(+group.level.toPrecision(4)), cell)
                        : fitting(text, cell)
                    }
                    said={describeWell(
                      group?.role ?? null,
                      group?.name ?? "",
                      text,
                      outcome?.why || outcome?.aside || "",
                      view.revision.method.question,
                    )}
                    lit={its?.(group) ?? false}
                    aside={Boolean(outcome?.aside)}
                    shade={shade?.of(value)}
                    chosen={chosen.has(well.id)}
                    group={group?.id}
                    focused={focus.row === r && focus.column === c}
                    out={out}
                    odd={!out && outcome != null && !outcome.used}
                    changed={trial !== null && !same(own.get(well.id), group)}
                    suspect={shown === "outliers" && Boolean(outcome?.suspect)}
                  />
                );
              })}
            </div>
          ))}
        </div>
      </div>
      <p className="mt-1 h-5 shrink-0 truncate text-sm text-graphite">
        {described(over ? wellAt(over) : focused && chosen.has(focused.id) ? focused : undefined)}
      </p>
      {shade && (
        <div className="flex shrink-0 items-center gap-2 text-sm text-graphite">
          <span>{end(shade.low)}</span>
          <span
            role="img"
            aria-label="Shade from low to high"
            className="h-2.5 w-[120px] rounded-sm border border-rule"
            style={{
              background: `linear-gradient(to right, ${[shade.low, (shade.low + shade.high) / 2, shade.high].map(shade.of).join(", ")})`,
            }}
          />
          <span>{end(shade.high)}</span>
        </div>
      )}
    </div>
  );
}

function end(value: number): string {
  return String(+value.toPrecision(3)).replace("-", "−");
}

function Heading({ part, text, label, on }: { part: string; text: string; label: string; on: boolean }) {
  return (
    // biome-ignore lint/a11y/useAriaPropsSupportedByRole: both roles it can have take a label
    <span
      role={part.endsWith(":") && part !== ":" ? "rowheader" : "columnheader"}
      data-part={part}
      aria-label={label}
      className={`grid min-h-0 cursor-pointer place-items-center rounded-sm text-xs leading-none hover:bg-rule ${on ? "font-bold text-permanganate" : "text-graphite"}`}
    >
      {text}
    </span>
  );
}

function byReading(layout: Layout): Map<number, Group> {
  return new Map(layout.groups.flatMap((group) => group.readings.map((id) => [id, group] as const)));
}

function same(a: Group | undefined, b: Group | undefined): boolean {
  return a?.role === b?.role && a?.name === b?.name && a?.level === b?.level && a?.dilution === b?.dilution;
}

function short(group: Group, shown: Shown): string {
  return shown === "role" && group.level != null && group.role !== "blank"
    ? String(+group.level.toPrecision(4))
    : group.name.replace(/^(Std|Sample|Blank) /, "$1 ").replace(/^Std /, "S");
}
