/* All courses in one pair of axes, as equals: points, lines over the window, and the window itself to be dragged. */
import { type KeyboardEvent, type MouseEvent, useMemo } from "react";
import { useCourseDetail } from "../../../api/hooks";
import type { Curve, Point } from "../../../api/schema";
import { XAxis, YAxis } from "../../../plot/Axis";
import { polyline } from "../../../plot/path";
import type { Residuals } from "../../figure/choices";
import { FitLine } from "../../figure/FitLine";
import type { Limits } from "../../figure/limits";
import { LEFT, plotOf, RIGHT, TOP } from "../../figure/plot";
import { ResidualStrip } from "../../figure/ResidualStrip";
import { SeriesNames } from "../../figure/SeriesNames";
import { ZoomPane } from "../../figure/ZoomPane";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";
import { useSelection } from "../../state/selection";
import { useSettled } from "../../state/useSettled";
import { CourseWindow } from "./CourseWindow";
import { colorOf, marksOf } from "./marks";

const PAUSE_MS = 150; // after which a zoom has settled
const NEAR = 14; // px within which a click is meant for a point
const SMALL = 400; // points of all courses from which they are drawn smaller

/** What a course is of: its name without the number of the replicate. */
function groupOf(curve: Curve): string {
  return (curve.key ?? "").replace(/ · \d+( \(\d+\))?$/, "");
}

interface Props {
  width: number;
  height: number;
  band: boolean;
  residuals: Residuals | null;
  limits: Limits;
  onLimits: (limits: Limits) => void;
}

export function CoursesFigure({ width, height, band, residuals, limits, onLimits }: Props) {
  const { curve, curves, chooseCurve } = useCurves();
  const { selection, select } = useSelection();
  const { view } = useOpenRun();
  const settled = useSettled(limits.x, PAUSE_MS);
  // Of a plate only the course that is looked at has its points; the wall shows the others.
  const drawn = useMemo(() => {
    const full = curves.filter((each) => each.points.length > 0);
    return full.length > 0 ? full : [curve];
  }, [curves, curve]);
  const plot = plotOf({
    width,
    height,
    curve,
    curves: drawn,
    limits,
    log: false,
    residuals,
    ruler: [],
    fromZero: false,
  });
  const { x, y, bottom, floor, strip, shown } = plot;
  // Of very many points a stretch that is zoomed into is fetched with more of them.
  const ends = curve.thinned ? settled : null;
  const { data } = useCourseDetail(view.run.id, view.revision.number, curve.key ?? "", ends);
  const detail = ends ? data?.courses?.[0] : undefined;
  const count = drawn.reduce((sum, each) => sum + each.points.length, 0);
  const radius = count > 4 * SMALL ? 1.4 : count > SMALL ? 2 : 3;
  // Replicates have the color and the mark of their group, which is named once.
  const names = useMemo(() => [...new Set(curves.map((each) => groupOf(each)))], [curves]);
  const place = (each: Curve) => names.indexOf(groupOf(each));
  const named = (drawn.length > 1 ? names : [groupOf(curve)]).map((name) => {
    const own = drawn.find((each) => groupOf(each) === name) ?? curve;
    return { ...own, key: name };
  });
  const nearest = (event: MouseEvent<SVGSVGElement>): [Curve, Point] | null => {
    const box = event.currentTarget.getBoundingClientRect();
    const [px, py] = [event.clientX - box.left, event.clientY - box.top];
    let best: [Curve, Point] | null = null;
    let least = NEAR * NEAR;
    for (const each of drawn)
      for (const point of each.points) {
        const far = (x(point.x) - px) ** 2 + (y(point.y) - py) ** 2;
        if (far < least && shown(point)) [best, least] = [[each, point], far];
      }
    return best;
  };
  const take = (each: Curve, point: Point) => {
    select({ group: point.group, reading: point.reading, at: point.at ?? null });
    chooseCurve(each.key ?? "");
  };
  const step = (event: KeyboardEvent<SVGSVGElement>) => {
    const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (by === 0 || curve.points.length === 0) return;
    event.preventDefault();
    const now = curve.points.findIndex((point) => point.at === selection?.at);
    const next = now < 0 ? (by > 0 ? 0 : curve.points.length - 1) : now + by;
    const point = curve.points[Math.min(Math.max(next, 0), curve.points.length - 1)]!;
    take(curve, point);
  };
  const picked = curve.points.find(
    (point) => point.reading === selection?.reading && point.at === selection?.at,
  );
  const hidden = drawn.reduce((sum, each) => sum + each.points.filter((p) => !shown(p)).length, 0);
  return (
    <svg
      width={width}
      height={height}
      role="group"
      tabIndex={0}
      aria-label={`${curve.y_label} against ${curve.x_label}; arrows step through the points of ${curve.key || "the course"}, X excludes one`}
      className="select-none outline-offset-[-2px]"
      onKeyDown={step}
      onClick={(event) => {
        const found = nearest(event);
        if (found) take(...found);
      }}
    >
      <clipPath id="inside-plot">
        <rect x={LEFT} y={TOP} width={width - LEFT - RIGHT} height={Math.max(bottom - TOP, 0)} />
      </clipPath>
      <YAxis
        scale={y}
        at={LEFT}
        reach={width - LEFT - RIGHT}
        count={Math.max(3, Math.floor(bottom / 55))}
        label={curve.y_label}
      />
      <XAxis scale={x} at={floor} reach={strip ? 0 : bottom - TOP} count={8} label={curve.x_label} />
      {strip && <path d={`M${LEFT} ${bottom}H${width - RIGHT}`} stroke="var(--color-ink)" />}
      <ZoomPane x={x} y={y} log={false} limits={limits} onLimits={onLimits} axisAt={floor} />
      <g clipPath="url(#inside-plot)" pointerEvents="none">
        {drawn.map((each) => {
          const index = place(each);
          const color = colorOf(index);
          const of = (state: Point["state"]) => each.points.filter((point) => point.state === state);
          const many = each.points.length > SMALL;
          if (detail && each.key === curve.key)
            return (
              <path
                key={each.key}
                data-detail={detail.x.length}
                d={polyline(detail.x.map(x), detail.y.map(y))}
                fill="none"
                stroke={color}
                strokeOpacity={0.6}
              />
            );
          return (
            <g
              key={each.key}
              data-course={each.key}
              opacity={each.key === curve.key || drawn.length < 9 ? 1 : 0.7}
            >
              {many && (
                <path
                  d={polyline(
                    each.points.map((p) => x(p.x)),
                    each.points.map((p) => y(p.y)),
                  )}
                  fill="none"
                  stroke={color}
                  strokeOpacity={0.35}
                />
              )}
              <path
                data-points="outside"
                d={marksOf(index, of("outside"), x, y, radius)}
                fill="var(--color-chalk)"
                stroke={color}
                strokeWidth={1}
              />
              <path
                data-points="used"
                d={marksOf(index, of("used"), x, y, radius)}
                fill={color}
                fillOpacity={many ? 0.5 : 0.85}
              />
              {of("excluded").map((point) => (
                <path
                  key={point.at}
                  data-points="excluded"
                  transform={`translate(${x(point.x)},${y(point.y)})`}
                  d="M-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0ZM-6 6L6 -6"
                  fill="none"
                  stroke="var(--color-cinnabar)"
                  strokeWidth={1.4}
                />
              ))}
              {each.key !== curve.key && (
                <path
                  d={polyline(
                    each.line.x.map((v) => x(v)),
                    each.line.y.map((v) => y(v)),
                  )}
                  fill="none"
                  stroke={color}
                  strokeWidth={1.7}
                />
              )}
            </g>
          );
        })}
      </g>
      <FitLine curve={curve} plot={plot} band={band ? "curve" : null} color={colorOf(place(curve))} />
      <CourseWindow curve={curve} x={x} top={TOP} bottom={bottom} />
      {picked && (
        <g pointerEvents="none" transform={`translate(${x(picked.x)},${y(picked.y)})`}>
          <circle r={8} fill="none" stroke="var(--color-permanganate)" strokeWidth={2} />
          <text
            x={x(picked.x) > width * 0.66 ? -12 : 12}
            y={-10}
            textAnchor={x(picked.x) > width * 0.66 ? "end" : "start"}
            fontSize={12}
            fontWeight={600}
            stroke="var(--color-chalk)"
            strokeWidth={4}
            paintOrder="stroke"
          >
            {`${curve.key} · ${+picked.x.toPrecision(6)} · ${+picked.y.toPrecision(4)}`}
          </text>
        </g>
      )}
      <SeriesNames
        curves={named}
        curve={named.find((each) => each.key === groupOf(curve)) ?? curve}
        plot={plot}
        log={false}
        unmarked
        ofSeries
      />
      {curve.thinned && (
        <text
          x={width - RIGHT - 4}
          y={bottom - (hidden > 0 ? 24 : 8)}
          textAnchor="end"
          fontSize={12}
          fill="var(--color-graphite)"
          stroke="var(--color-chalk)"
          strokeWidth={4}
          paintOrder="stroke"
        >
          Of very many points those are drawn that keep the shape
        </text>
      )}
      {hidden > 0 && (
        <text x={width - RIGHT - 4} y={bottom - 8} textAnchor="end" fontSize={12} fill="var(--color-iodine)">
          {hidden === 1 ? "1 point lies" : `${hidden} points lie`} outside these axes
        </text>
      )}
      {strip && residuals && (
        <ResidualStrip
          curve={curve}
          points={curve.points.filter(shown)}
          kind={residuals}
          plot={plot}
          strip={strip}
        />
      )}
    </svg>
  );
}
