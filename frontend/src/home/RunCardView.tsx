/* A run as a card: thumbnail of the curve, the main answer, how it stands, when it was last changed. */
import { extent } from "d3-array";
import { scaleLinear } from "d3-scale";
import { Link } from "react-router";
import type { RunCard } from "../api/schema";
import { polyline } from "../plot/path";
import { StateBadge } from "../ui/StateDot";

const WIDTH = 208;
const HEIGHT = 84;
const STATES = { pass: "checks pass", look: "look at this", fail: "a check fails" };

export function RunCardView({ run }: { run: RunCard }) {
  const changed = new Date(run.changed_at);
  return (
    <li>
      <Link
        to={`/runs/${run.id}`}
        className="flex h-[232px] flex-col rounded-lg border border-rule bg-chalk p-3.5 hover:border-graphite"
      >
        <h2 className="line-clamp-2 min-h-[42px] leading-[1.3]" title={run.title}>
          {run.title}
        </h2>
        <Thumbnail run={run} />
        <p className="mt-auto line-clamp-2">{run.card.headline}</p>
        <p className="mt-1.5 flex items-center gap-2 text-sm text-graphite">
          <StateBadge state={run.card.state}>{STATES[run.card.state]}</StateBadge>
          <time dateTime={run.changed_at} title={changed.toLocaleString("en-GB")}>
            {changed.toLocaleDateString("en-GB", { day: "numeric", month: "short" })}
          </time>
        </p>
      </Link>
    </li>
  );
}

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
      {points.map((point, i) => (
        <circle
          key={i}
          cx={x(point.x)}
          cy={y(point.y)}
          r={2.6}
          fill="var(--color-cupric)"
          stroke="var(--color-chalk)"
        />
      ))}
    </svg>
  );
}
