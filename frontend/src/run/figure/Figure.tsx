/* The drawing itself: axes, range of trust, curves, readings and samples, and the residuals below. */
import { XAxis, YAxis } from "../../plot/Axis";
import { useCurves } from "../state/curves";
import { hover } from "../state/hover";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { Chosen } from "./Chosen";
import { type Band, type Bars, type Residuals, SERIES } from "./choices";
import { FitLine } from "./FitLine";
import type { Limits } from "./limits";
import { MeanMarks } from "./MeanMarks";
import { SampleMark, StandardMark } from "./marks";
import { OtherCurves } from "./OtherCurves";
import { LEFT, plotOf, RIGHT, TOP } from "./plot";
import { ResidualStrip } from "./ResidualStrip";
import { SeriesNames } from "./SeriesNames";
import { TrustedRange } from "./TrustedRange";
import { ZoomPane } from "./ZoomPane";

interface Props {
  width: number;
  height: number;
  band: Band | null;
  residuals: Residuals | null;
  log: boolean;
  /** Where curves are of series: the bars on their means, and whether single readings are drawn. */
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
  const { view, room } = useOpenRun();
  const { curve, curves, chooseCurve } = useCurves();
  const { selection, select } = useSelection();
  const { ofSeries, handles: Handles } = room.figure;
  const color = SERIES[ofSeries ? curves.indexOf(curve) % SERIES.length : 0]!;
  const half = room.figure.half?.(view) ?? null;
  const ruler = ruled ? (curve.ruler ?? []) : [];
  const fromZero = room.figure.fromZero ?? true;
  const plot = plotOf({ width, height, curve, curves, limits, log, residuals, ruler, fromZero });
  const { x, y, bottom, floor, strip, shown } = plot;
  // Of thousands of samples, those that would be drawn on the same spot are drawn once.
  const spots = curve.samples.filter(shown).map((s) => [`${s.role} ${Math.round(x(s.x))}`, s] as const);
  const seen = [...new Map(spots).values()];
  const points = curve.points.filter(shown);
  const trusted = ranged ? (room.figure.trusted?.(curve) ?? null) : null;
  const hidden = curve.points.length - points.length + curve.samples.filter((s) => !shown(s)).length;
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
        <TrustedRange curve={curve} span={trusted} unit={view.revision.outcome.level_unit} plot={plot} />
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
      <FitLine curve={curve} plot={plot} band={band} color={color} />
      {half !== null && half > y.domain()[0]! && half < y.domain().at(-1)! && (
        <path
          d={`M${LEFT} ${y(half)}H${width - RIGHT}`}
          stroke="var(--color-graphite)"
          strokeDasharray="2 3"
          pointerEvents="none"
        />
      )}
      {Handles && <Handles curve={curve} x={x} top={TOP} bottom={bottom} />}
      {ofSeries && (
        <MeanMarks
          curve={curve}
          x={x}
          y={y}
          bars={bars}
          color={color}
          log={log}
          onHover={(dose) => hover(dose === null ? null : groupAt(dose))}
          onSelect={(dose) => {
            const group = groupAt(dose);
            if (group) select({ group, reading: null });
          }}
        />
      )}
      {points.map((point) => (
        <StandardMark
          single={ofSeries && (singles ? "dot" : "ghost")}
          key={point.reading}
          point={point}
          cx={x(point.x)}
          cy={y(point.y)}
          chosen={selection?.group === point.group}
          focused={selection?.reading === point.reading}
          onSelect={() => select({ group: point.group, reading: point.reading })}
        />
      ))}
      {seen.map((sample) => (
        <SampleMark
          key={`${sample.group} ${sample.reading ?? ""}`}
          role={sample.role}
          cx={x(sample.x)}
          cy={y(sample.y)}
          group={sample.group}
          chosen={selection?.group === sample.group}
          onSelect={() => select({ group: sample.group, reading: sample.reading ?? null })}
        />
      ))}
      {(curves.length > 1 || ofSeries) && (
        <SeriesNames
          curves={curves}
          curve={curve}
          plot={plot}
          log={log}
          unmarked={room.figure.unmarked ?? false}
          ofSeries={ofSeries}
        />
      )}
      <Chosen curve={curve} points={points} plot={plot} />
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
      {strip && residuals && (
        <ResidualStrip curve={curve} points={points} kind={residuals} plot={plot} strip={strip} />
      )}
    </svg>
  );

  /** The group whose mean stands at a dose. */
  function groupAt(dose: number): string | null {
    return curve.points.find((point) => point.x === dose)?.group ?? null;
  }
}
