/* A run as a line of a list. */
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { RunCard } from "../api/schema";
import { StateDot } from "../ui/StateDot";
import { Tags } from "./Tags";

export interface RunProps {
  run: RunCard;
  chosen: boolean;
  onChoose: () => void;
  menu: ReactNode;
}

export function RunRow({ run, chosen, onChoose, menu }: RunProps) {
  const changed = new Date(run.changed_at);
  return (
    <div
      className={`grid h-full grid-cols-[24px_16px_minmax(160px,2fr)_minmax(160px,3fr)_auto_90px_64px_32px] items-center gap-2 border-b border-rule ${chosen ? "bg-permanganate-tint" : ""}`}
    >
      <input type="checkbox" aria-label={`Choose ${run.title}`} checked={chosen} onChange={onChoose} />
      <StateDot state={run.card.state} />
      <Link to={`/runs/${run.id}`} className="truncate font-semibold hover:underline" title={run.title}>
        {run.title}
      </Link>
      <span className="truncate" title={run.card.headline}>
        {run.card.headline}
      </span>
      <span className="flex items-center gap-2 text-sm text-graphite">
        {run.stage !== "draft" && run.stage}
        <Tags tags={run.tags ?? []} />
      </span>
      <span className="truncate text-sm text-graphite" title={run.author}>
        {run.author}
      </span>
      <time
        className="text-sm text-graphite"
        dateTime={run.changed_at}
        title={changed.toLocaleString("en-GB")}
      >
        {changed.toLocaleDateString("en-GB", { day: "numeric", month: "short" })}
      </time>
      {menu}
    </div>
  );
}
