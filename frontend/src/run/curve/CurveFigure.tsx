/* The live figure: standards, fit, band, range of trust, samples on the curve, and the residuals below. */
import { extent } from "d3-array";
import { scaleLinear } from "d3-scale";
import { Checkbox } from "radix-ui";
import { useId, useRef, useState } from "react";
import type { Point } from "../../api/schema";
import { XAxis, YAxis } from "../../plot/Axis";
import { polyline, ribbon } from "../../plot/path";
import { linearX, logX } from "../../plot/scales";
import { useSize } from "../../plot/useSize";
import { Pick, Segments } from "../../ui/Choice";
import { useWorkspace } from "../workspace";
import { FigureMenu } from "./FigureMenu";
import { SampleMark, StandardMark } from "./marks";
import { WindowHandles } from "./WindowHandles";

const LEFT = 62;
const RIGHT = 14;
const BELOW = 44;
const STRIP = 62;
const GAP = 16;

export function CurveFigure() {
  const { view } = useWorkspace();
  const curve = view.revision.outcome.curve;
  const frame = useRef<HTMLDivElement>(null);
  const size = useSize(frame);
  const [band, setBand] = useState<Band | null>("curve");
  const [residuals, setResiduals] = useState<Residuals | null>("raw");
  const [axis, setAxis] = useState<"log" | "linear" | null>(null);
  const above = curve.points.some((point) => point.x > 0);
  const log = above && (axis ?? (curve.logarithmic ? "log" : "linear")) === "log";
  return (
    <>
      <div className="mb-1 flex items-center gap-4">
        <h2 className="text-lg">Curve</h2>
        <Tick label="band" on={band !== null} onChange={(on) => setBand(on ? "curve" : null)} />
        {band && <Pick label="Band of" value={band} options={BANDS} onChange={setBand} quiet />}
        <Tick label="residuals" on={residuals !== null} onChange={(on) => setResiduals(on ? "raw" : null)} />
        {residuals && (
          <Pick label="Residuals are" value={residuals} options={RESIDUALS} onChange={setResiduals} quiet />
        )}
        {above && (
          <Segments
            label="Concentrations on"
            value={log ? "log" : "linear"}
            options={AXES}
            onChange={setAxis}
          />
        )}
        <FigureMenu frame={frame} />
      </div>
      {curve.problem && <p className="text-cinnabar">{curve.problem}</p>}
      <div ref={frame} className="min-h-0 flex-1">
        {curve.points.length === 0 ? (
          <p className="grid h-full place-items-center text-graphite">
            No standard with a concentration and a reading: there is nothing to draw yet.
          </p>
        ) : (
          size.width > 0 && (
            <Figure width={size.width} height={size.height} band={band} residuals={residuals} log={log} />
          )
        )}
      </div>
    </>
  );
}

interface Props {
  width: number;
  height: number;
  band: Band | null;
  residuals: Residuals | null;
  log: boolean;
}

function Figure({ width, height, band, residuals, log }: Props) {
  const { view, selection, hovered, select, hover } = useWorkspace();
  const { curve, level_unit } = view.revision.outcome;
  const strip = residuals !== null && curve.line.x.length > 0 && height > 230;
  const bottom = height - BELOW - (strip ? STRIP + GAP : 0);
  const stripTop = bottom + GAP + 6;
  const floor = strip ? stripTop + STRIP - 6 : bottom;
  const ys = [
    ...curve.points.map((p) => p.y),
    ...curve.samples.map((s) => s.y),
    ...curve.line.y,
    ...curve.line.upper,
  ];
  const [x0, x1] = extent([
    ...curve.points.map((p) => p.x),
    ...curve.line.x,
    ...curve.samples.map((s) => s.x),
  ]);
  const [y0, y1] = extent(ys);
  const pad = (x1! - x0!) * 0.02 || 1;
  const span: [number, number] = [LEFT, width - RIGHT];
  const positive = [...curve.points, ...curve.samples].map((p) => p.x).filter((v) => v > 0);
  const zero = curve.points.some((p) => p.x === 0);
  const x = log
    ? logX(Math.min(...positive), Math.max(...positive), zero, span)
    : linearX([x0! - pad, x1! + pad], span);
  // The axis starts at zero unless signals lie clearly below it.
  const floorY = y0! < -0.03 * (y1! - y0!) ? y0! : 0;
  const y = scaleLinear([floorY, y1!], [bottom, 12]).nice();
  const residual = (p: Point) => residualOf(p, residuals ?? "raw", curve.rmse ?? null);
  const [r0, r1] = extent(
    curve.points.flatMap((p) => (p.residual == null || p.state !== "used" ? [] : [residual(p)])),
  );
  const reach = Math.max(Math.abs(r0 ?? 0), Math.abs(r1 ?? 0)) || 1;
  const r = scaleLinear([-reach * 1.15, reach * 1.15], [floor, stripTop]).clamp(true);
  const drawn = curve.line.x.flatMap((at, i) => (log && at <= 0 ? [] : [i]));
  const xs = drawn.map((i) => x(curve.line.x[i]!));
  const at = (values: readonly number[]) => (values.length ? drawn.map((i) => y(values[i]!)) : []);
  // Of thousands of samples, those that would be drawn on the same spot are drawn once.
  const seen = [...new Map(curve.samples.map((s) => [`${s.role} ${Math.round(x(s.x))}`, s])).values()];
  const line = polyline(xs, at(curve.line.y));
  const active = hovered ?? selection?.group ?? null;
  const chosen = curve.samples.find((sample) => sample.group === active);
  const answer = chosen && view.revision.outcome.answers.find((each) => each.group === chosen.group);
  const [low, high] =
    band === "reading"
      ? [curve.line.one_lower ?? [], curve.line.one_upper ?? []]
      : [curve.line.lower, curve.line.upper];
  const trusted = curve.working ?? curve.range;
  const labelLeft = chosen && x(chosen.x) > width * 0.62;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${curve.y_label} against ${curve.x_label}`}
      className="select-none"
    >
      {trusted && (
        <rect
          x={x(trusted.lower)}
          y={12}
          width={Math.max(x(trusted.upper) - x(trusted.lower), 0)}
          height={bottom - 12}
          fill="var(--color-malachite-tint)"
          fillOpacity={0.5}
        />
      )}
      {trusted && (
        <text x={x(trusted.lower) + 14} y={27} fontSize={12} fill="var(--color-malachite)">
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
      <XAxis scale={x} at={floor} reach={strip ? 0 : bottom - 12} count={8} label={curve.x_label} />
      {strip && <path d={`M${LEFT} ${bottom}H${width - RIGHT}`} stroke="var(--color-ink)" />}
      {/* Solid where standards hold it, dashed beyond. */}
      <clipPath id="inside-plot">
        <rect x={LEFT} y={0} width={width - LEFT - RIGHT} height={bottom} />
      </clipPath>
      {curve.range && (
        <clipPath id="inside-range">
          <rect
            x={x(curve.range.lower) - 1}
            y={0}
            width={Math.max(x(curve.range.upper) - x(curve.range.lower), 0) + 2}
            height={bottom}
          />
        </clipPath>
      )}
      {band && (
        <path
          d={ribbon(xs, at(low), at(high))}
          fill="var(--color-cupric)"
          fillOpacity={0.14}
          clipPath="url(#inside-plot)"
        />
      )}
      <path d={line} fill="none" stroke="var(--color-cupric)" strokeOpacity={0.65} strokeDasharray="4 4" />
      <path d={line} fill="none" stroke="var(--color-cupric)" strokeWidth={2} clipPath="url(#inside-range)" />
      <WindowHandles curve={curve} x={x} top={12} bottom={bottom} />
      {chosen && (
        <path
          d={`M${LEFT} ${y(chosen.y)}H${x(chosen.x)}V${bottom}`}
          fill="none"
          stroke="var(--color-permanganate)"
          strokeWidth={1.5}
          strokeDasharray="5 3"
        />
      )}
      {curve.points.map((point) => (
        <StandardMark
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
          key={sample.group}
          role={sample.role}
          cx={x(sample.x)}
          cy={y(sample.y)}
          group={sample.group}
          active={active === sample.group}
          onSelect={() => select({ group: sample.group, reading: null })}
          onHover={(on) => hover(on ? sample.group : null)}
        />
      ))}
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
      {strip && (
        <g>
          <YAxis scale={r} at={LEFT} reach={0} count={3} />
          <path
            d={`M${LEFT} ${r(0)}H${width - RIGHT}`}
            stroke="var(--color-graphite)"
            strokeDasharray="3 3"
          />
          {curve.points.map(
            (point) =>
              point.residual != null && (
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
            {RESIDUAL_LABELS[residuals]}
          </text>
        </g>
      )}
    </svg>
  );
}

type Residuals = "raw" | "percent" | "standardized";
type Band = "curve" | "reading";
const BANDS = [
  { value: "curve", text: "of the curve" },
  { value: "reading", text: "of one reading" },
] as const;
const RESIDUALS = [
  { value: "raw", text: "raw" },
  { value: "percent", text: "%" },
  { value: "standardized", text: "standardized" },
] as const;
const RESIDUAL_LABELS: Record<Residuals, string> = {
  raw: "residual",
  percent: "residual / %",
  standardized: "residual / RMSE",
};
const AXES = [
  { value: "log", text: "log x" },
  { value: "linear", text: "linear x" },
] as const;

/** How far a point is from the curve: as it is, in percent of the curve, or in RMSEs. */
function residualOf(point: Point, kind: Residuals, rmse: number | null): number {
  const raw = point.residual ?? 0;
  if (kind === "percent") return point.y === raw ? 0 : (100 * raw) / Math.abs(point.y - raw);
  return kind === "standardized" && rmse ? raw / rmse : raw;
}

function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  const id = useId();
  return (
    <span className="flex items-center gap-1.5 text-graphite">
      <Checkbox.Root
        id={id}
        checked={on}
        onCheckedChange={(next) => onChange(next === true)}
        className="grid size-3.5 place-items-center rounded-[3px] border border-graphite"
      >
        <Checkbox.Indicator>
          <svg viewBox="0 0 10 10" className="size-2.5" aria-hidden>
            <path d="M1.5 5.2L4 7.7L8.7 2.3" fill="none" stroke="var(--color-ink)" strokeWidth={1.8} />
          </svg>
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id}>{label}</label>
    </span>
  );
}
