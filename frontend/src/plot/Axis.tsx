/* Axes as print draws them: a line, ticks outside, light grid, quantity / unit. */
import { alike, type XScale } from "./scales";

/** What an axis needs to know of its scale, linear or logarithmic. */
export interface AxisScale {
  (value: number): number | undefined;
  ticks(count?: number): number[];
  range(): number[];
}

/** Tick labels with a true minus sign, all in one notation. */
export function tickText(scale: AxisScale, count: number): (value: number) => string {
  return alike(scale.ticks(count));
}

interface Props {
  scale: AxisScale;
  /** Where the axis stands, and how far its grid reaches across. */
  at: number;
  reach: number;
  count: number;
  label?: string;
}

export function XAxis({ scale, at, reach, count, label }: Omit<Props, "scale"> & { scale: XScale }) {
  const [from, to] = scale.range;
  return (
    <g fontSize={12} fill="var(--color-graphite)">
      {scale.ticks(count).map((tick) => (
        <g key={tick} transform={`translate(${scale(tick)},${at})`}>
          <path d={`M0 0V${-reach}`} stroke="var(--color-rule)" strokeOpacity={0.7} />
          <path d="M0 0V5" stroke="var(--color-ink)" />
          <text y={18} textAnchor="middle">
            {scale.text(tick)}
          </text>
        </g>
      ))}
      {scale.gap ? (
        <path
          d={`M${from} ${at}H${scale.gap[0]}m-3 5l6 -10m2 10l6 -10M${scale.gap[1]} ${at}H${to}`}
          fill="none"
          stroke="var(--color-ink)"
        />
      ) : (
        <path d={`M${from} ${at}H${to}`} stroke="var(--color-ink)" />
      )}
      {label && (
        <text x={(from + to) / 2} y={at + 36} textAnchor="middle" fontSize={13} fill="var(--color-ink)">
          {label}
        </text>
      )}
    </g>
  );
}

export function YAxis({ scale, at, reach, count, label }: Props) {
  const places = scale.range();
  const [from, to] = [places[0]!, places.at(-1)!];
  const text = tickText(scale, count);
  return (
    <g fontSize={12} fill="var(--color-graphite)">
      {scale.ticks(count).map((tick) => (
        <g key={tick} transform={`translate(${at},${scale(tick)})`}>
          <path d={`M0 0H${reach}`} stroke="var(--color-rule)" strokeOpacity={0.7} />
          <path d="M0 0H-5" stroke="var(--color-ink)" />
          <text x={-9} dy="0.32em" textAnchor="end">
            {text(tick)}
          </text>
        </g>
      ))}
      <path d={`M${at} ${from}V${to}`} stroke="var(--color-ink)" />
      {label && (
        <text
          transform={`translate(${at - 46},${(from + to) / 2}) rotate(-90)`}
          textAnchor="middle"
          fontSize={13}
          fill="var(--color-ink)"
        >
          {label}
        </text>
      )}
    </g>
  );
}
