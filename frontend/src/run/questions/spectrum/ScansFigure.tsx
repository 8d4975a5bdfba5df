/* Scans over each other as joined lines, with what is read off them: peaks, places, where they meet. */
import { type KeyboardEvent, type PointerEvent, useMemo, useRef, useState } from "react";
import { XAxis, YAxis } from "../../../plot/Axis";
import { polyline } from "../../../plot/path";
import { valueAt } from "../../../plot/valueAt";
import type { Limits } from "../../figure/limits";
import { LEFT, plotOf, RIGHT, TOP } from "../../figure/plot";
import { ZoomPane } from "../../figure/ZoomPane";
import { useCurves } from "../../state/curves";
import { useSelection } from "../../state/selection";
import { sequence } from "./colors";
import { asCurves, useDrawnScans, useScanMarks } from "./lines";
import { type DrawnScan, ScanCanvas } from "./ScanCanvas";

const PATHS = 60; // scans up to which each is a path of its own
const NEAR = 10; // px within which a click is meant for a line
const HEADROOM = 28; // px a label above a peak takes
const STILL = 3; // px that a click may move

interface Props {
  width: number;
  height: number;
  limits: Limits;
  onLimits: (limits: Limits) => void;
  stage: string;
  /** What a click at a place does, besides looking at the scan there; null for nothing. */
  onPlace: ((place: number) => void) | null;
  /** Whether what a mixture leaves over is drawn. */
  rest: boolean;
}

export function ScansFigure({ width, height, limits, onLimits, stage, onPlace, rest }: Props) {
  const { curve, curves, chooseCurve } = useCurves();
  const { select } = useSelection();
  const part = useScanMarks();
  const { scans, waiting } = useDrawnScans(limits, stage);
  const [cursor, setCursor] = useState<number | null>(null);
  const pressed = useRef<[number, number] | null>(null);
  const drawn = useMemo(() => asCurves(curves, scans), [curves, scans]);
  const plot = useMemo(
    () =>
      plotOf({
        width,
        height,
        curve,
        curves: drawn.length > 0 ? drawn : [curve],
        limits,
        log: false,
        residuals: null,
        ruler: [],
        fromZero: false,
      }),
    [width, height, curve, drawn, limits],
  );
  const { x, y, bottom } = plot;
  const marks = part?.scans ?? [];
  const own = marks.find((each) => each.key === curve.key);
  const looked = scans.find((each) => each.key === curve.key);
  const several = scans.length > PATHS;
  const take = (key: string) => {
    chooseCurve(key);
    const mark = marks.find((each) => each.key === key);
    if (mark) select({ group: mark.group, reading: mark.reading });
  };
  const nearest = (px: number, py: number): DrawnScan | null => {
    let best: DrawnScan | null = null;
    let least = NEAR;
    const at = x.invert(px);
    for (const scan of scans) {
      const value = valueAt(scan, at);
      if (value === null) continue;
      const far = Math.abs(y(value) - py);
      if (far < least) [best, least] = [scan, far];
    }
    return best;
  };
  const place = (event: PointerEvent<SVGSVGElement>): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const inside = (px: number, py: number) =>
    px >= x.range[0] && px <= x.range[1] && py >= TOP && py <= bottom;
  const byKey = (event: KeyboardEvent<SVGSVGElement>) => {
    if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      const now = marks.findIndex((each) => each.key === curve.key);
      const next = marks[Math.min(Math.max(now + (event.key === "ArrowDown" ? 1 : -1), 0), marks.length - 1)];
      if (next) take(next.key);
      event.preventDefault();
      return;
    }
    if (event.key === "Enter" && cursor !== null && onPlace) {
      onPlace(cursor);
      event.preventDefault();
      return;
    }
    const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (by === 0 || !looked || looked.x.length === 0) return;
    event.preventDefault();
    const step = (event.shiftKey ? 20 : 1) * (x.invert(1) - x.invert(0));
    const start = cursor ?? own?.peaks?.[0]?.x ?? looked.x[0]!;
    setCursor(Math.min(Math.max(start + by * step, looked.x[0]!), looked.x.at(-1)!));
  };
  const read = cursor !== null && looked ? valueAt(looked, cursor) : null;
  const label = `${part?.y_label} against ${part?.x_label}, ${scans.length} scans; up and down choose one, left and right read along it`;
  return (
    <>
      {several && (
        <ScanCanvas
          scans={scans}
          x={x}
          y={y}
          width={width}
          height={height}
          frame={{ left: LEFT, right: width - RIGHT, top: TOP, bottom }}
        />
      )}
      <svg
        width={width}
        height={height}
        role="group"
        tabIndex={0}
        aria-label={label}
        className="relative select-none outline-offset-[-2px]"
        onKeyDown={byKey}
        onPointerDownCapture={(event) => {
          pressed.current = place(event);
        }}
        onPointerMove={(event) => {
          const [px, py] = place(event);
          setCursor(inside(px, py) ? x.invert(px) : null);
        }}
        onPointerLeave={() => setCursor(null)}
        onPointerUpCapture={(event) => {
          const [px, py] = place(event);
          const from = pressed.current;
          pressed.current = null;
          if (!from || Math.hypot(px - from[0], py - from[1]) > STILL || !inside(px, py)) return;
          const found = nearest(px, py);
          if (onPlace) onPlace(x.invert(px));
          else if (found) take(found.key);
        }}
      >
        <clipPath id="inside-scans">
          <rect x={LEFT} y={TOP} width={width - LEFT - RIGHT} height={Math.max(bottom - TOP, 0)} />
        </clipPath>
        <YAxis
          scale={y}
          at={LEFT}
          reach={several ? 0 : width - LEFT - RIGHT}
          count={Math.max(3, Math.floor(bottom / 55))}
          label={part?.y_label ?? ""}
        />
        <XAxis
          scale={x}
          at={bottom}
          reach={several ? 0 : bottom - TOP}
          count={8}
          label={part?.x_label ?? ""}
        />
        <ZoomPane x={x} y={y} log={false} limits={limits} onLimits={onLimits} axisAt={bottom} />
        <g clipPath="url(#inside-scans)" pointerEvents="none">
          {(part?.places ?? []).map((at) => (
            <Rule key={`at ${at}`} at={x(at)} top={TOP} bottom={bottom} text={String(at)} dash="4 3" />
          ))}
          {(part?.isosbestic ?? []).map((at) => (
            <Rule
              key={`meets ${at}`}
              at={x(at)}
              top={TOP}
              bottom={bottom}
              text={`all meet at ${at.toFixed(1)}`}
              dash="1 4"
            />
          ))}
          {!several &&
            scans
              .filter((scan) => scan.key !== curve.key)
              .map((scan) => <Path key={scan.key} scan={scan} x={x} y={y} wide={1.6} marks={marks} />)}
          {looked && <Path scan={looked} x={x} y={y} wide={2.8} marks={marks} />}
          {rest && own?.rest_x && own.rest_x.length > 0 && (
            <path
              data-rest={own.key}
              d={polyline(own.rest_x.map(x), (own.rest_y ?? []).map(y))}
              fill="none"
              stroke="var(--color-cinnabar)"
              strokeDasharray="3 2"
            />
          )}
          {stage === "" && own && (
            <g>
              {(own.peaks ?? []).map((peak, i) => (
                <g
                  key={`${peak.x} ${peak.highest}`}
                  data-peak={peak.shown}
                  transform={`translate(${x(peak.x)},${y(peak.y)})`}
                >
                  <path d="M0 -4v-8" stroke={sequence(own.place)} strokeWidth={1.5} />
                  <text
                    {...(y(peak.y) < TOP + HEADROOM
                      ? { x: 9, y: 4 }
                      : {
                          y: -16 - (crowded(own.peaks ?? [], i, x) ? 13 : 0),
                          textAnchor: "middle" as const,
                        })}
                    fontSize={12}
                    fontWeight={peak.highest ? 700 : 400}
                    fill="var(--color-ink)"
                    stroke="var(--color-chalk)"
                    strokeWidth={4}
                    paintOrder="stroke"
                  >
                    {peak.shown}
                  </text>
                </g>
              ))}
            </g>
          )}
        </g>
        {read !== null && cursor !== null && (
          <g pointerEvents="none">
            <path d={`M${x(cursor)} ${TOP}V${bottom}`} stroke="var(--color-graphite)" strokeOpacity={0.5} />
            <circle
              cx={x(cursor)}
              cy={y(read)}
              r={4}
              fill="none"
              stroke="var(--color-permanganate)"
              strokeWidth={2}
            />
            <text
              data-readout=""
              x={x(cursor) > width * 0.6 ? x(cursor) - 8 : x(cursor) + 8}
              y={bottom - 8}
              textAnchor={x(cursor) > width * 0.6 ? "end" : "start"}
              fontSize={12}
              fontWeight={600}
              stroke="var(--color-chalk)"
              strokeWidth={4}
              paintOrder="stroke"
            >
              {`${curve.key} · ${+cursor.toPrecision(5)} · ${+read.toPrecision(4)}`}
            </text>
          </g>
        )}
        {waiting && (
          <text x={width / 2} y={height / 2} textAnchor="middle" fill="var(--color-graphite)">
            Drawing …
          </text>
        )}
      </svg>
    </>
  );
}

interface PathProps {
  scan: DrawnScan;
  x: (value: number) => number;
  y: (value: number) => number;
  wide: number;
  marks: readonly { key: string; role: string }[];
}

function Path({ scan, x, y, wide, marks }: PathProps) {
  const reference = marks.find((each) => each.key === scan.key)?.role === "standard";
  return (
    <path
      data-scan={scan.key}
      d={polyline(scan.x.map(x), scan.y.map(y))}
      fill="none"
      stroke={scan.color}
      strokeWidth={wide}
      strokeLinejoin="round"
      strokeDasharray={reference ? "6 3" : undefined}
    />
  );
}

function Rule({
  at,
  top,
  bottom,
  text,
  dash,
}: {
  at: number;
  top: number;
  bottom: number;
  text: string;
  dash: string;
}) {
  return (
    <g transform={`translate(${at},0)`}>
      <path d={`M0 ${top}V${bottom}`} stroke="var(--color-graphite)" strokeDasharray={dash} />
      <text
        x={4}
        y={top + 12}
        fontSize={12}
        fill="var(--color-graphite)"
        stroke="var(--color-chalk)"
        strokeWidth={4}
        paintOrder="stroke"
      >
        {text}
      </text>
    </g>
  );
}

/** Whether a label would stand on that of a peak before it. */
function crowded(
  peaks: readonly { x: number; highest?: boolean }[],
  i: number,
  x: (value: number) => number,
): boolean {
  return peaks.some((other, k) => k < i && Math.abs(x(other.x) - x(peaks[i]!.x)) < 34);
}
