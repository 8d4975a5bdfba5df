/* A control chart of individual values with its moving range below; each point leads to its run. */
import { scaleLinear } from "d3-scale";
import { useRef } from "react";
import { Link } from "react-router";
import type { Trend, TrendPoint } from "../api/schema";
import { YAxis } from "../plot/Axis";
import { useSize } from "../plot/useSize";

const LEFT = 64;
const RIGHT = 118;
const TOP = 30;
const HEIGHT = 330;
const RANGES = 74;
const BELOW = 40;
const MOST_NAMED = 40; // runs whose number stands under the axis one by one

export function ControlChart({ trend }: { trend: Trend }) {
  const box = useRef<HTMLDivElement>(null);
  const { width } = useSize(box);
  return (
    <div ref={box} className="w-full" style={{ height: HEIGHT + RANGES + BELOW }}>
      {width > 0 && <Drawn trend={trend} width={width} />}
    </div>
  );
}

function Drawn({ trend, width }: { trend: Trend; width: number }) {
  const { points, held } = trend;
  const values = points.map((point) => point.value);
  const ends = held ? [held.center - 3.4 * held.sd, held.center + 3.4 * held.sd] : [];
  const all = [...values, ...ends, ...(trend.nominal == null ? [] : [trend.nominal])];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const room = (high - low || Math.abs(high) || 1) * 0.05;
  const y = scaleLinear([low - room, high + room], [HEIGHT - 8, TOP]);
  const x = scaleLinear([0.5, points.length + 0.5], [LEFT, width - RIGHT]);
  const right = width - RIGHT;
  const at = (i: number) => x(i + 1);
  const path = points.map((point, i) => `${i === 0 ? "M" : "L"}${at(i)} ${y(point.value)}`).join("");
  const told = trend.signals.filter((each) => each.places.length > 1).slice(-3);
  const named = told.at(-1);
  const every = Math.ceil(points.length / MOST_NAMED);
  return (
    <svg width={width} height={HEIGHT + RANGES + BELOW} role="group" aria-label={`${trend.title} over runs`}>
      {held && held.sd > 0 && (
        <>
          <rect
            x={LEFT}
            width={right - LEFT}
            y={y(held.center + 2 * held.sd)}
            height={y(held.center - 2 * held.sd) - y(held.center + 2 * held.sd)}
            fill="var(--color-malachite-tint)"
            opacity={0.6}
          />
          {[3, 2, -2, -3].map((sds) => (
            <g key={sds}>
              <path
                d={`M${LEFT} ${y(held.center + sds * held.sd)}H${right}`}
                stroke={Math.abs(sds) === 3 ? "var(--color-cinnabar)" : "var(--color-iodine)"}
                strokeDasharray="5 4"
              />
              <text
                x={right + 8}
                y={y(held.center + sds * held.sd)}
                dy="0.32em"
                fontSize={12}
                fill={Math.abs(sds) === 3 ? "var(--color-cinnabar)" : "var(--color-iodine)"}
              >
                {sds > 0 ? `+${sds}` : `−${-sds}`} SD
              </text>
            </g>
          ))}
          <path d={`M${LEFT} ${y(held.center)}H${right}`} stroke="var(--color-malachite)" />
          <text x={right + 8} y={y(held.center)} dy="0.32em" fontSize={12} fill="var(--color-malachite)">
            center {held.shown_center}
          </text>
        </>
      )}
      {trend.nominal != null && (
        <path d={`M${LEFT - 7} ${y(trend.nominal)}l7 -5v10z`} fill="var(--color-ink)">
          <title>nominal {trend.nominal}</title>
        </path>
      )}
      <YAxis scale={y} at={LEFT} reach={0} count={6} />
      <path d={path} fill="none" stroke="var(--color-ink)" strokeOpacity={0.55} />
      {told.map((signal) => {
        const [first, last] = [at(signal.places[0]!), at(signal.places.at(-1)!)];
        return (
          <path
            key={`${signal.rule} ${first}`}
            d={`M${first - 6} ${TOP - 6}H${last + 6}`}
            stroke="var(--color-iodine)"
            strokeWidth={2}
          />
        );
      })}
      {named && (
        <text
          x={Math.min((at(named.places[0]!) + at(named.places.at(-1)!)) / 2, right - 110)}
          y={TOP - 11}
          textAnchor="middle"
          fontSize={12}
          fill="var(--color-iodine)"
        >
          {named.text}
        </text>
      )}
      {points.map((point, i) => (
        <Mark key={point.run} point={point} number={i + 1} unit={trend.unit} x={at(i)} y={y(point.value)} />
      ))}
      <path d={`M${LEFT} ${HEIGHT}H${right}`} stroke="var(--color-ink)" />
      {points.map(
        (point, i) =>
          i % every === 0 && (
            <text
              key={point.run}
              x={at(i)}
              y={HEIGHT + 16}
              textAnchor="middle"
              fontSize={12}
              fill="var(--color-graphite)"
            >
              {i + 1}
            </text>
          ),
      )}
      <text x={(LEFT + right) / 2} y={HEIGHT + 32} textAnchor="middle" fontSize={13}>
        Run, {spanOf(points)}
      </text>
      <Ranges trend={trend} at={at} right={right} />
    </svg>
  );
}

function Mark({
  point,
  number,
  unit,
  x,
  y,
}: {
  point: TrendPoint;
  number: number;
  unit: string;
  x: number;
  y: number;
}) {
  const broken = point.broken ?? [];
  const said = `${number}. ${point.title}: ${point.shown} ${unit}${broken.length > 0 ? `; ${broken.join("; ")}` : ""}`;
  return (
    <Link
      to={`/runs/${point.run}`}
      aria-label={said}
      className="outline-none [&:focus-visible>path]:stroke-[3]"
    >
      <title>{said}</title>
      <circle cx={x} cy={y} r={10} fill="transparent" />
      <path
        d={`M${x} ${y - 6}l6 6l-6 6l-6 -6z`}
        fill={broken.length > 0 ? "var(--color-iodine)" : "var(--color-chalk)"}
        stroke={broken.length > 0 ? "var(--color-iodine)" : "var(--color-permanganate)"}
        strokeWidth={1.6}
      />
    </Link>
  );
}

function Ranges({ trend, at, right }: { trend: Trend; at: (i: number) => number; right: number }) {
  const ranges = trend.points.map((point) => point.moving_range ?? 0);
  const most = Math.max(...ranges, trend.held?.ranges_upper ?? 0) || 1;
  const floor = HEIGHT + BELOW + RANGES - 8;
  const y = scaleLinear([0, most], [floor, floor - RANGES + 18]);
  return (
    <g>
      <text x={LEFT} y={floor - RANGES + 10} fontSize={12} fill="var(--color-graphite)">
        moving range
      </text>
      {ranges.map((range, i) => (
        <path
          key={trend.points[i]!.run}
          d={`M${at(i)} ${floor}V${y(range)}`}
          stroke={
            trend.held && range > trend.held.ranges_upper ? "var(--color-cinnabar)" : "var(--color-graphite)"
          }
          strokeWidth={3}
        />
      ))}
      {trend.held && trend.held.sd > 0 && (
        <>
          <path
            d={`M${LEFT} ${y(trend.held.ranges_upper)}H${right}`}
            stroke="var(--color-cinnabar)"
            strokeDasharray="5 4"
          />
          <text
            x={right + 8}
            y={y(trend.held.ranges_upper)}
            dy="0.32em"
            fontSize={12}
            fill="var(--color-cinnabar)"
          >
            upper limit
          </text>
        </>
      )}
      <path d={`M${LEFT} ${floor}H${right}`} stroke="var(--color-ink)" />
    </g>
  );
}

function spanOf(points: readonly TrendPoint[]): string {
  const day = (point: TrendPoint) =>
    new Date(point.at).toLocaleDateString("en-GB", {
      day: "numeric",
      month: "long",
      year: "numeric",
    });
  const [first, last] = [day(points[0]!), day(points.at(-1)!)];
  return first === last ? first : `${first} to ${last}`;
}
