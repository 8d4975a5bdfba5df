/* One channel of a recording: its axis in the unit of now, and as recorded beside it, its trace and its events. */
import { scaleLinear } from "d3-scale";
import { YAxis } from "../../../plot/Axis";
import { polyline } from "../../../plot/path";
import type { XScale } from "../../../plot/scales";
import { alike } from "../../../plot/scales";
import { valueAt } from "../../../plot/valueAt";

export interface Drawn {
  key: string;
  label: string;
  rawLabel: string;
  color: string;
  /** Coefficients of its calibration; without one the axis as recorded is not drawn. */
  c: readonly number[];
  x: readonly number[];
  y: readonly number[];
  events: readonly number[];
}

interface Props {
  trace: Drawn;
  x: XScale;
  top: number;
  bottom: number;
  left: number;
  right: number;
  cursor: number | null;
  decimals: number;
  unit: string;
}

const ROOM = 0.06; // share of the range that stays free above and below

export function Trace({ trace, x, top, bottom, left, right, cursor, decimals, unit }: Props) {
  const [low, high] = endsOf(trace.y);
  const y = scaleLinear([low, high], [bottom, top]);
  const count = Math.max(3, Math.floor((bottom - top) / 38));
  const value = cursor === null ? null : valueAt(trace, cursor);
  const [c0 = 0, c1 = 0] = trace.c;
  const raw =
    trace.c.length === 2 && c1 !== 0 ? scaleLinear([(low - c0) / c1, (high - c0) / c1], [bottom, top]) : null;
  return (
    <g data-channel={trace.key}>
      <YAxis scale={y} at={left} reach={right - left} count={count} label={trace.label} />
      {raw && <RawAxis scale={raw} at={right} count={count} label={trace.rawLabel} />}
      <g clipPath="url(#inside-traces)" pointerEvents="none">
        {trace.events.map((at) => (
          <path
            key={at}
            data-event={at}
            d={`M${x(at)} ${top}v7`}
            stroke="var(--color-iodine)"
            strokeWidth={1.5}
          />
        ))}
        <path
          data-trace={trace.key}
          d={polyline(
            trace.x.map(x),
            trace.y.map((v) => y(v)),
          )}
          fill="none"
          stroke={trace.color}
          strokeWidth={1.3}
        />
        {value !== null && cursor !== null && (
          <circle
            cx={x(cursor)}
            cy={y(value)}
            r={3.5}
            fill="var(--color-chalk)"
            stroke={trace.color}
            strokeWidth={2}
          />
        )}
      </g>
      {value !== null && cursor !== null && (
        <text
          data-readout={trace.key}
          x={x(cursor) > (left + right) / 2 ? x(cursor) - 8 : x(cursor) + 8}
          y={top + 14}
          textAnchor={x(cursor) > (left + right) / 2 ? "end" : "start"}
          fontSize={12}
          fontWeight={600}
          stroke="var(--color-chalk)"
          strokeWidth={4}
          paintOrder="stroke"
        >
          {`${value.toFixed(decimals).replace("-", "−")} ${unit}`}
        </text>
      )}
    </g>
  );
}

/** The ticks of the signal as it was recorded, on the right of those of what it means. */
function RawAxis({
  scale,
  at,
  count,
  label,
}: {
  scale: ReturnType<typeof scaleLinear<number, number>>;
  at: number;
  count: number;
  label: string;
}) {
  const text = alike(scale.ticks(count));
  const [from, to] = scale.range();
  return (
    <g fontSize={11} fill="var(--color-graphite)" data-raw-axis="">
      <path d={`M${at} ${from}V${to}`} stroke="var(--color-graphite)" />
      {scale.ticks(count).map((tick) => (
        <g key={tick} transform={`translate(${at},${scale(tick)})`}>
          <path d="M0 0H4" stroke="var(--color-graphite)" />
          <text x={7} dy="0.32em">
            {text(tick)}
          </text>
        </g>
      ))}
      <text transform={`translate(${at + 44},${(from! + to!) / 2}) rotate(90)`} textAnchor="middle">
        {label}
      </text>
    </g>
  );
}

function endsOf(values: readonly number[]): [number, number] {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const value of values) {
    if (value < low) low = value;
    if (value > high) high = value;
  }
  if (!(low <= high)) return [0, 1];
  const room = high > low ? (high - low) * ROOM : Math.abs(high) * ROOM || 1;
  return [low - room, high + room];
}
