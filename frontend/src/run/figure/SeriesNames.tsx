/* The names of curves, and of the places marked on them: each near its own, covering neither data nor another name. */
import type { Curve } from "../../api/schema";
import { type Box, Room } from "../../plot/room";
import { SERIES } from "./choices";
import { LEFT, type Plot, RIGHT, TOP } from "./plot";

const NAMED = 8; // curves up to which each carries its name
const LETTER = 6.6; // pixels that a letter of a name takes
const HEIGHT = 14;
const NEAR = 70; // pixels from the end of its line beyond which a name goes into the legend

interface Props {
  curves: readonly Curve[];
  curve: Curve;
  plot: Plot;
  log: boolean;
  /** Whether marked places carry no text. */
  unmarked: boolean;
  /** Whether curves are of series, and have their colors. */
  ofSeries: boolean;
}

interface Name {
  key: string;
  text: string;
  color: string;
  strong: boolean;
  box: Box;
}

export function SeriesNames(props: Props) {
  const { names, legend, corner } = placed(props);
  return (
    <g data-names pointerEvents="none" fontSize={12}>
      {names.map(({ key, text, color, strong, box }) => (
        <text key={key} x={box.left} y={box.top + 11} fill={color} fontWeight={strong ? 600 : undefined}>
          {text}
        </text>
      ))}
      {corner &&
        legend.map(({ key, text, color }, i) => (
          <g key={key} transform={`translate(${corner.left},${corner.top + i * (HEIGHT + 2)})`}>
            <path d="M0 7h14" stroke={color} strokeWidth={2} />
            <text x={19} y={11} fill={color}>
              {text}
            </text>
          </g>
        ))}
    </g>
  );
}

function placed({ curves, curve, plot, log, unmarked, ofSeries }: Props) {
  const { x, y, width, bottom, shown } = plot;
  const room = new Room({
    left: LEFT + 2,
    top: TOP,
    width: width - LEFT - RIGHT - 4,
    height: Math.max(bottom - TOP, 1),
  });
  const few = curves.length <= NAMED;
  for (const each of few ? curves : [curve]) {
    const at = each.line.x.flatMap((value, k) => (log && value <= 0 ? [] : [k]));
    room.takeLine(
      at.map((k) => x(each.line.x[k]!)),
      at.map((k) => y(each.line.y[k]!)),
    );
    for (const mark of [...each.points, ...each.samples, ...(each.means ?? [])].filter(shown))
      room.take({ left: x(mark.x) - 5, top: y(mark.y) - 5, width: 10, height: 10 });
    for (const mark of each.marks ?? []) room.takeLine([x(mark.x), x(mark.x)], [y(mark.y), bottom]);
  }
  const names: Name[] = [];
  const legend: Name[] = [];
  for (const [i, each] of curves.entries()) {
    const chosen = each.key === curve.key;
    if (!few && !chosen) continue;
    const mark = unmarked ? undefined : (each.marks ?? [])[0];
    const text = [curves.length > 1 ? each.key : "", ofSeries ? (mark?.text ?? "") : ""]
      .filter(Boolean)
      .join(" ");
    if (!text) continue;
    const last = each.line.x.findLastIndex((value) => !log || value > 0);
    if (last < 0 && !mark) continue;
    const near = mark
      ? { x: x(mark.x) + 6, y: y(mark.y) - 6 }
      : { x: x(each.line.x[last]!), y: y(each.line.y[last]!) };
    const size = LETTER * text.length * (chosen ? 1.08 : 1);
    const color = !ofSeries && !chosen ? "var(--color-graphite)" : SERIES[ofSeries ? i % SERIES.length : 0]!;
    const box = room.free(size, HEIGHT, near, NEAR);
    const name = {
      key: each.key ?? "",
      text,
      color,
      strong: chosen,
      box: box ?? { left: 0, top: 0, width: size, height: HEIGHT },
    };
    if (box) {
      room.take(box);
      names.push(name);
    } else legend.push(name);
  }
  const wide = Math.max(0, ...legend.map((each) => each.box.width)) + 20;
  const corner = legend.length ? room.free(wide, legend.length * (HEIGHT + 2), { x: width, y: TOP }) : null;
  return { names, legend, corner };
}
