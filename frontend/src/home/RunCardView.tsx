/* A run as a card: thumbnail of the curve, the main answer, how it stands, when it was last changed. */
import { extent } from "d3-array";
import { scaleLinear } from "d3-scale";
import { Link } from "react-router";
import type { RunCard } from "../api/schema";
import { polyline } from "../plot/path";
import { StateBadge } from "../ui/StateDot";
import type { RunProps } from "./RunRow";
import { Tags } from "./Tags";

const WIDTH = 208;
const HEIGHT = 84;
const DOT = 2.6;
const STATES = { pass: "checks pass", look: "look at this", fail: "a check fails" };

export function RunCardView({ run, chosen, onChoose, menu }: RunProps) {
  const changed = new Date(run.changed_at);
  return (
    <div className="group relative h-full">
      <Link
        to={`/runs/${run.id}`}
        className={`flex h-full flex-col rounded-lg border bg-chalk p-3.5 hover:border-graphite ${chosen ? "border-permanganate" : "border-rule"}`}
      >
        <h2 className="line-clamp-2 min-h-[42px] pr-10 leading-[1.3]" title={run.description || run.title}>
          {run.title}
        </h2>
        <Thumbnail run={run} />
        <p className="mt-auto line-clamp-2">{run.card.headline}</p>
        <p className="mt-1.5 flex items-center gap-2 text-sm text-graphite">
          <StateBadge state={run.card.state}>{STATES[run.card.state]}</StateBadge>
          <time dateTime={run.changed_at} title={changed.toLocaleString("en-GB")} className="shrink-0">
            {changed.toLocaleDateString("en-GB", { day: "numeric", month: "short" })}
          </time>
          {run.stage !== "draft" && <span className="shrink-0">{run.stage}</span>}
          <Tags tags={run.tags ?? []} />
        </p>
      </Link>
      {/* Seen when they can be meant: under the pointer, by key, or once a run is chosen. */}
      <span
        className={`absolute top-2 right-1.5 flex items-center gap-0.5 rounded-md bg-chalk group-focus-within:opacity-100 group-hover:opacity-100 ${chosen ? "" : "opacity-0"}`}
      >
        <input type="checkbox" aria-label={`Choose ${run.title}`} checked={chosen} onChange={onChoose} />
        {menu}
      </span>
    </div>
  );
}

const dot = (x: number, y: number) =>
  `M${(x - DOT).toFixed(1)} ${y.toFixed(1)}a${DOT} ${DOT} 0 1 0 ${2 * DOT} 0a${DOT} ${DOT} 0 1 0 ${-2 * DOT} 0`;

function Thumbnail({ run }: { run: RunCard }) {
  const { line, points } = run.card;
  const [x0, x1] = extent([...line.x, ...points.map((p) => p.x)]);
  const [y0, y1] = extent([...line.y, ...points.map((p) => p.y)]);
  if (x0 === undefined || y0 === undefined) {
    return <p className="grid h-[84px] place-items-center text-sm text-graphite">no curve</p>;
  }
  const x = scaleLinear([x0, x1!], [4, WIDTH - 4]);
  const y = scaleLinear([y0, y1!], [HEIGHT - 8, 6]);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-[84px] w-full" aria-hidden>
      <path d={`M0 ${HEIGHT - 1}H${WIDTH}`} stroke="var(--color-rule)" />
      <path
        d={polyline(line.x.map(x), line.y.map(y))}
        fill="none"
        stroke="var(--color-cupric)"
        strokeWidth={1.8}
      />
      {/* One path for all dots: hundreds of cards pass by when a study is scrolled. */}
      <path
        d={points.map((point) => dot(x(point.x), y(point.y))).join("")}
        fill="var(--color-cupric)"
        stroke="var(--color-chalk)"
        paintOrder="stroke"
      />
    </svg>
  );
}
