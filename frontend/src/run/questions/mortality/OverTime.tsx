/* The lethal dose against the time of exposure, one line for each treatment. */

import { scaleLinear, scaleLog } from "d3-scale";
import { useRef } from "react";
import type { RunView, TimeCourse } from "../../../api/schema";
import { XAxis, YAxis } from "../../../plot/Axis";
import { polyline } from "../../../plot/path";
import { linearX } from "../../../plot/scales";
import { useSize } from "../../../plot/useSize";
import { Segments } from "../../../ui/Choice";
import { markPath } from "../../../ui/RoleMark";
import { SERIES } from "../../figure/choices";
import { FigureMenu } from "../../figure/FigureMenu";
import { useCurves } from "../../state/curves";
import { useOpenRun } from "../../state/open";

const MOST = 12; // times named on the axis
const [LEFT, RIGHT, TOP, BELOW] = [62, 14, 16, 44];

export function Against({
  value,
  onChange,
}: {
  value: "dose" | "time";
  onChange: (value: "dose" | "time") => void;
}) {
  const options = [
    { value: "dose", text: "by dose" },
    { value: "time", text: "over time" },
  ] as const;
  return <Segments label="Figure" value={value} options={options} onChange={onChange} />;
}

function timesOf(view: RunView): readonly TimeCourse[] {
  const { part } = view.revision.outcome;
  return part.kind === "mortality" ? (part.over_time ?? []) : [];
}

/** Whether there is a treatment that was counted at several times. */
export function hasTimes(view: RunView): boolean {
  return timesOf(view).length > 0;
}

export function OverTime({ onBack }: { onBack: () => void }) {
  const { view } = useOpenRun();
  const { chooseCurve } = useCurves();
  const courses = timesOf(view);
  const frame = useRef<HTMLDivElement>(null);
  const { width, height } = useSize(frame);
  const { answers, level_unit } = view.revision.outcome;
  const symbol = answers.columns?.find((column) => column.lead)?.name ?? "LC50";
  const all = courses.flatMap((course) => course.points);
  const doses = all.flatMap(({ dose }) =>
    [dose.value, dose.lower, dose.upper].filter((v) => v != null && v > 0),
  );
  const [low, high] = [Math.min(...(doses as number[])), Math.max(...(doses as number[]))];
  const bottom = height - BELOW;
  const times = [...new Set(all.map((point) => point.time))].sort((a, b) => a - b);
  const linear = linearX([0, times.at(-1)! * 1.08], [LEFT, width - RIGHT]);
  // The times that were counted, where there is room to name each.
  const x = times.length > MOST ? linear : Object.assign(linear, { ticks: () => [0, ...times] });
  // A narrow span has no decades to show.
  const y =
    high / low > 5
      ? scaleLog([low / 1.3, high * 1.3], [bottom, TOP])
      : scaleLinear([0, high * 1.1], [bottom, TOP]);
  const missing = all.filter(({ dose }) => dose.value == null);
  return (
    <>
      <div className="mb-1 flex items-center gap-3.5">
        <h2 className="text-lg">Curve</h2>
        <Against value="time" onChange={onBack} />
        {missing.length > 0 && (
          <span className="text-iodine">
            {missing.map((point) => `${point.series}: ${symbol} ${point.dose.shown}`).join("; ")}
          </span>
        )}
        <span className="flex-1" />
        <FigureMenu kind="over_time" />
      </div>
      <div ref={frame} className="relative min-h-0 flex-1">
        {doses.length === 0 ? (
          <p className="grid h-full place-items-center text-graphite">
            No time point has a lethal dose yet, so there is nothing to draw.
          </p>
        ) : (
          width > 0 && (
            <svg
              width={width}
              height={height}
              role="img"
              aria-label={`${symbol} against time`}
              className="select-none"
            >
              <YAxis
                scale={y}
                at={LEFT}
                reach={width - LEFT - RIGHT}
                count={5}
                label={`${symbol}${level_unit ? ` / ${level_unit}` : ""}`}
              />
              <XAxis
                scale={x}
                at={bottom}
                reach={bottom - TOP}
                count={8}
                label={`Time of exposure / ${courses[0]!.unit}`}
              />
              {courses.map((course, i) => {
                const color = SERIES[i % SERIES.length]!;
                const there = course.points.filter(({ dose }) => dose.value != null);
                const first = there[0];
                return (
                  <g key={course.name} fill={color} stroke={color}>
                    <path
                      d={polyline(
                        there.map((point) => x(point.time)),
                        there.map((point) => y(point.dose.value!)),
                      )}
                      fill="none"
                      strokeDasharray={i ? "6 3" : undefined}
                    />
                    {there.map(({ series, time, dose }) => (
                      // biome-ignore lint/a11y/noStaticElementInteractions: by key the series is chosen in the answers
                      <g key={series} className="cursor-pointer" onClick={() => chooseCurve(series)}>
                        <title>{`${series}: ${symbol} ${dose.shown} (${dose.shown_lower} – ${dose.shown_upper})`}</title>
                        {dose.lower != null && dose.upper != null && dose.lower > 0 && (
                          <path
                            d={`M${x(time)} ${y(dose.lower)}V${y(dose.upper)}m-4 0h8M${x(time) - 4} ${y(dose.lower)}h8`}
                          />
                        )}
                        <path
                          d={markPath("dose", 4.5)}
                          transform={`translate(${x(time)},${y(dose.value!)})`}
                          fill={i % 2 ? "var(--color-chalk)" : color}
                        />
                      </g>
                    ))}
                    {first && course.name && (
                      <text
                        x={x(first.time) - 10}
                        y={y(first.dose.value!) + 4}
                        textAnchor="end"
                        fontSize={13}
                        fontWeight={600}
                        stroke="none"
                      >
                        {course.name}
                      </text>
                    )}
                  </g>
                );
              })}
            </svg>
          )
        )}
      </div>
    </>
  );
}
