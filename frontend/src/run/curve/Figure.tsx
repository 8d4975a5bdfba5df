/* The drawing itself: standards, fit, band, range of trust, samples on the curve, and the residuals below. */
import { extent } from "d3-array";
import { scaleLinear } from "d3-scale";
import type { Curve, Point, Reading, RunView } from "../../api/schema";
import { XAxis, YAxis } from "../../plot/Axis";
import { polyline, ribbon } from "../../plot/path";
import { MeanMarks } from "../doses/MeanMarks";
import { placeOf } from "../plate/geometry";
import { shownLevel } from "../readings/levels";
import { asksDose, stepOf, useWorkspace } from "../workspace";
import { type Band, type Bars, RESIDUAL_LABELS, type Residuals, residualOf, SERIES } from "./choices";
import { type Limits, scalesOf, within } from "./limits";
import { SampleMark, StandardMark } from "./marks";
import { beside, OtherCurves } from "./OtherCurves";
import { WindowHandles } from "./WindowHandles";
import { ZoomPane } from "./ZoomPane";

const LEFT = 62;
const RIGHT = 14;
const BELOW = 44;
const STRIP = 62;
const GAP = 16;
const TOP = 12;
const FLATTENED = 4; // times the residuals of the curve from which those left out would flatten them

interface Props {
  width: number;
  height: number;
  band: Band | null;
  residuals: Residuals | null;
  log: boolean;
  /** Of a dose–response run: the bars on its means, and whether single readings are drawn. */
  bars: Bars;
  singles: boolean;
  limits: Limits;
  onLimits: (limits: Limits) => void;
  /** Of counts: whether shares stand on the scale of the link, where the line is straight. */
  ruled: boolean;
  /** Whether the range in which answers are trusted is shaded. */
  ranged: boolean;
}

export function Figure(props: Props) {
  const { width, height, band, residuals, log, bars, singles, limits, onLimits, ruled, ranged } = props;
  const { view, groups, readings, curve, curves, chooseCurve, selection, hovered, select, hover } =
    useWorkspace();
  const { level_unit } = view.revision.outcome;
  const doses = asksDose(view);
  const color = doses ? SERIES[curves.indexOf(curve) % SERIES.length]! : SERIES[0]!;
  const half = doses ? halfOf(view) : null;
  const strip = residuals !== null && curve.line.x.length > 0 && height > 230;
  const bottom = height - BELOW - (strip ? STRIP + GAP : 0);
  const stripTop = bottom + GAP + 6;
  const floor = strip ? stripTop + STRIP - 6 : bottom;
  const ruler = ruled ? curve.ruler : [];
  const { x, y } = scalesOf(curves, limits, log, [LEFT, width - RIGHT], [bottom, TOP], ruler);
  const shown = (at: { x: number; y: number }) => within(at.x, limits.x) && within(at.y, limits.y);
  const residual = (p: Point) => residualOf(p, residuals ?? "raw", curve.rmse ?? null);
  const [r0, r1] = extent(
    curve.points.flatMap((p) => (p.residual == null || p.state !== "used" ? [] : [residual(p)])),
  );
  const usual = Math.max(Math.abs(r0 ?? 0), Math.abs(r1 ?? 0)) || 1;
  // What is left out is shown where it is, unless that would flatten all the others: then an arrow says so.
  const [e0, e1] = extent(curve.points.flatMap((p) => (p.residual == null ? [] : [residual(p)])));
  const whole = Math.max(Math.abs(e0 ?? 0), Math.abs(e1 ?? 0));
  const reach = whole <= FLATTENED * usual ? Math.max(whole, usual) : usual;
  const r = scaleLinear([-reach * 1.15, reach * 1.15], [floor, stripTop]).clamp(true);
  const drawn = curve.line.x.flatMap((at, i) => (log && at <= 0 ? [] : [i]));
  const xs = drawn.map((i) => x(curve.line.x[i]!));
  const at = (values: readonly number[]) => (values.length ? drawn.map((i) => y(values[i]!)) : []);
  // Of thousands of samples, those that would be drawn on the same spot are drawn once.
  const spots = curve.samples.filter(shown).map((s) => [`${s.role} ${Math.round(x(s.x))}`, s] as const);
  const seen = [...new Map(spots).values()];
  const points = curve.points.filter(shown);
  const line = polyline(xs, at(curve.line.y));
  const active = hovered ?? selection?.group ?? null;
  const reading = hovered === null || hovered === selection?.group ? (selection?.reading ?? null) : null;
  const own = curve.samples.filter((sample) => sample.group === active && shown(sample));
  const chosen = own.find((sample) => sample.reading === reading) ?? own[0];
  const answer =
    chosen &&
    view.revision.outcome.answers.find(
      (each) => each.group === chosen.group && (each.reading ?? null) === (chosen.reading ?? null),
    );
  const [low, high] =
    band === "reading"
      ? [curve.line.one_lower ?? [], curve.line.one_upper ?? []]
      : [curve.line.lower, curve.line.upper];
  const additions = view.revision.method.question === "additions";
  const trusted = doses || additions || !ranged ? null : (curve.working ?? curve.range);
  // The words about it stand where the curve is not: at the right of one that falls.
  const falls = (curve.line.y[0] ?? 0) > (curve.line.y.at(-1) ?? 0);
  const hidden = curve.points.length - points.length + curve.samples.filter((s) => !shown(s)).length;
  // A reading that is selected says what and where it is.
  const picked = selection?.reading == null ? undefined : points.find((p) => p.reading === selection.reading);
  const pickedLeft = picked !== undefined && x(picked.x) > width * 0.62;
  const pickedSaid = picked && saidOf(picked, view, groups.get(picked.group)?.name ?? "", readings);
  const labelLeft = chosen && x(chosen.x) > width * 0.62;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${curve.y_label} against ${curve.x_label}`}
      className="select-none"
    >
      <clipPath id="inside-plot">
        <rect x={LEFT} y={TOP} width={width - LEFT - RIGHT} height={Math.max(bottom - TOP, 0)} />
      </clipPath>
      {trusted && (
        <rect
          x={x(trusted.lower)}
          y={TOP}
          width={Math.max(x(trusted.upper) - x(trusted.lower), 0)}
          height={Math.max(bottom - TOP, 0)}
          fill="var(--color-malachite-tint)"
          fillOpacity={0.5}
          clipPath="url(#inside-plot)"
        />
      )}
      {trusted && (
        <text
          x={falls ? Math.min(x(trusted.upper), width - RIGHT) - 14 : Math.max(x(trusted.lower), LEFT) + 14}
          y={27}
          textAnchor={falls ? "end" : "start"}
          fontSize={12}
          fill="var(--color-malachite)"
        >
          {curve.working && `quantifiable ${curve.shown_working} · `}standards {curve.shown_range}{" "}
          {level_unit}
        </text>
      )}
      <YAxis
        scale={y}
        at={LEFT}
        reach={width - LEFT - RIGHT}
        count={Math.max(3, Math.floor(bottom / 55))}
        label={curve.y_label}
      />
      <XAxis scale={x} at={floor} reach={strip ? 0 : bottom - TOP} count={8} label={curve.x_label} />
      {strip && <path d={`M${LEFT} ${bottom}H${width - RIGHT}`} stroke="var(--color-ink)" />}
      <ZoomPane x={x} y={y} log={log} limits={limits} onLimits={onLimits} axisAt={floor} />
      {curves.length > 1 && (
        <OtherCurves curves={curves} curve={curve} x={x} y={y} log={log} bars={bars} onChoose={chooseCurve} />
      )}
      {/* Solid where standards hold it, dashed beyond. */}
      {curve.range && (
        <clipPath id="inside-range">
          <rect
            x={x(curve.range.lower) - 1}
            y={TOP}
            width={Math.max(x(curve.range.upper) - x(curve.range.lower), 0) + 2}
            height={Math.max(bottom - TOP, 0)}
          />
        </clipPath>
      )}
      {band && (
        <path
          d={ribbon(xs, at(low), at(high))}
          fill={color}
          fillOpacity={0.14}
          clipPath="url(#inside-plot)"
          pointerEvents="none"
        />
      )}
      <g clipPath="url(#inside-plot)" pointerEvents="none">
        <path d={line} fill="none" stroke={color} strokeOpacity={0.65} strokeDasharray="4 4" />
        <path d={line} fill="none" stroke={color} strokeWidth={2} clipPath="url(#inside-range)" />
      </g>
      {half !== null && half > y.domain()[0]! && half < y.domain().at(-1)! && (
        <path
          d={`M${LEFT} ${y(half)}H${width - RIGHT}`}
          stroke="var(--color-graphite)"
          strokeDasharray="2 3"
          pointerEvents="none"
        />
      )}
      {!doses && <WindowHandles curve={curve} x={x} top={TOP} bottom={bottom} />}
      {doses && (
        <MeanMarks
          curve={curve}
          x={x}
          y={y}
          bars={bars}
          color={color}
          log={log}
          onHover={(dose) => hover(dose === null ? null : groupAt(curve, dose))}
          onSelect={(dose) => {
            const group = groupAt(curve, dose);
            if (group) select({ group, reading: null });
          }}
        />
      )}
      {chosen && (
        <path
          d={`M${LEFT} ${y(chosen.y)}H${x(chosen.x)}V${bottom}`}
          fill="none"
          stroke="var(--color-permanganate)"
          strokeWidth={1.5}
          strokeDasharray="5 3"
        />
      )}
      {points.map((point) => (
        <StandardMark
          single={doses && (singles ? "dot" : "ghost")}
          key={point.reading}
          point={point}
          cx={x(point.x)}
          cy={y(point.y)}
          active={active === point.group}
          focused={selection?.reading === point.reading}
          onSelect={() => select({ group: point.group, reading: point.reading })}
          onHover={(on) => hover(on ? point.group : null)}
        />
      ))}
      {seen.map((sample) => (
        <SampleMark
          key={`${sample.group} ${sample.reading ?? ""}`}
          role={sample.role}
          cx={x(sample.x)}
          cy={y(sample.y)}
          group={sample.group}
          active={active === sample.group}
          onSelect={() => select({ group: sample.group, reading: sample.reading ?? null })}
          onHover={(on) => hover(on ? sample.group : null)}
        />
      ))}
      {doses &&
        (curve.marks ?? []).slice(0, 1).map((mark) => (
          <text
            key={mark.text}
            x={x(mark.x) + beside(curves, curve).dx}
            y={Math.max(y(mark.y) - 8, TOP + 12)}
            textAnchor={beside(curves, curve).anchor}
            fontSize={13}
            fontWeight={600}
            fill={color}
          >
            {curves.length > 1 ? `${curve.key} ` : ""}
            {mark.text}
          </text>
        ))}
      {picked && !chosen && (
        <g
          transform={`translate(${x(picked.x) + (pickedLeft ? -10 : 10)},${Math.min(Math.max(y(picked.y) - 12, TOP + 14), bottom - 8)})`}
          pointerEvents="none"
        >
          <text
            textAnchor={pickedLeft ? "end" : "start"}
            fontSize={12}
            fontWeight={600}
            stroke="var(--color-chalk)"
            strokeWidth={4}
            paintOrder="stroke"
          >
            {pickedSaid}
          </text>
        </g>
      )}
      {chosen && answer && (
        <g
          transform={`translate(${x(chosen.x) + (labelLeft ? -12 : 12)},${Math.min(y(chosen.y) + 26, bottom - 34)})`}
          pointerEvents="none"
        >
          <rect
            x={labelLeft ? -190 : 0}
            y={-15}
            width={190}
            height={40}
            rx={7}
            fill="var(--color-chalk)"
            stroke="var(--color-permanganate)"
          />
          <text x={labelLeft ? -180 : 10} fontSize={13} fontWeight={600}>
            {answer.name.length > 16 ? `${answer.name.slice(0, 15)}…` : answer.name} ·{" "}
            {answer.in_reading.shown} {level_unit}
          </text>
          <text x={labelLeft ? -180 : 10} y={17} fontSize={12} fill="var(--color-graphite)">
            {answer.in_reading.shown_lower
              ? `${answer.in_reading.shown_lower} – ${answer.in_reading.shown_upper} in the reading`
              : "no interval"}
          </text>
        </g>
      )}
      {ruled && curve.points.some((point) => point.y <= 0 || point.y >= 100) && (
        <text x={LEFT + 8} y={TOP + 14} fontSize={12} fill="var(--color-graphite)">
          0 and 100 % stand at the edges
        </text>
      )}
      {hidden > 0 && (
        <text x={width - RIGHT - 4} y={bottom - 8} textAnchor="end" fontSize={12} fill="var(--color-iodine)">
          {hidden === 1 ? "1 point lies" : `${hidden} points lie`} outside these axes
        </text>
      )}
      {strip && (
        <g>
          <YAxis scale={r} at={LEFT} reach={0} count={3} />
          <path
            d={`M${LEFT} ${r(0)}H${width - RIGHT}`}
            stroke="var(--color-graphite)"
            strokeDasharray="3 3"
          />
          {points.map((point) =>
            point.residual == null ? null : Math.abs(residual(point)) > reach * 1.15 ? (
              <g
                key={point.reading}
                transform={`translate(${x(point.x)},${residual(point) > 0 ? stripTop : floor})`}
              >
                <title>{`Residual ${residual(point).toPrecision(3)}, beyond this strip`}</title>
                <path
                  d={residual(point) > 0 ? "M0 1L4 8H-4Z" : "M0 -1L4 -8H-4Z"}
                  fill="var(--color-cinnabar)"
                />
                <text x={6} y={residual(point) > 0 ? 9 : -2} fontSize={11} fill="var(--color-cinnabar)">
                  {Number(residual(point).toPrecision(2)).toString().replace("-", "−")}
                </text>
              </g>
            ) : (
              <StandardMark
                key={point.reading}
                point={point}
                cx={x(point.x)}
                cy={r(residual(point))}
                small
                active={active === point.group}
                focused={selection?.reading === point.reading}
                onSelect={() => select({ group: point.group, reading: point.reading })}
                onHover={(on) => hover(on ? point.group : null)}
              />
            ),
          )}
          <text
            transform={`translate(${LEFT - 46},${(stripTop + floor) / 2}) rotate(-90)`}
            textAnchor="middle"
            fontSize={12}
            fill="var(--color-graphite)"
          >
            {curve.turned && residuals === "raw" ? "residual of x" : RESIDUAL_LABELS[residuals]}
          </text>
        </g>
      )}
    </svg>
  );
}

/** The group whose mean stands at a dose. */
function groupAt(curve: Curve, dose: number): string | null {
  return curve.points.find((point) => point.x === dose)?.group ?? null;
}

/** "Std 3 · 5 µM · well B7", of a reading on the figure. */
function saidOf(point: Point, view: RunView, name: string, readings: ReadonlyMap<number, Reading>): string {
  const level = `${shownLevel(point.x)} ${view.revision.layout.level.unit ?? ""}`.trim();
  const place = placeOf(readings.get(point.reading), view.readings.plates ?? []).replace(/^, /, "");
  return [name.length > 24 ? `${name.slice(0, 23)}…` : name, level, place].filter(Boolean).join(" · ");
}

/** Where half of the effect lies on the scale of the controls; null where responses are as they were read. */
function halfOf(view: RunView): number | null {
  if (view.revision.method.question === "mortality") return 50;
  const step = stepOf(view, "normalize");
  const normalized = view.revision.outcome.steps.find((each) => each.kind === "normalize");
  if (!step.on || normalized?.state !== "pass" || stepOf(view, "dose_curve").of === "raw") return null;
  return step.scale === "fraction" ? 0.5 : 50;
}
