/* The runs of a study as cards or as a list, thousands as smoothly as a few: what is in view is fetched and drawn. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { Link } from "react-router";
import type { RunCard } from "../api/schema";
import { type Asked, KeepAsk } from "../house/KeepAsk";
import { countOf } from "../house/keeping";
import { RunMenu } from "../house/RunMenu";
import { useSize } from "../plot/useSize";
import { Button } from "../ui/Button";
import { Message, Pending } from "../ui/Message";
import { ALL, type Filter, isFiltered, PAGE, useFacets, useRunPages } from "./filter";
import { RunCardView } from "./RunCardView";
import { type Look, RunFilters } from "./RunFilters";
import { RunRow } from "./RunRow";

const CARD = { width: 236, height: 246, gap: 14 };
const ROW = 38;

export function Runs({ study }: { study: number }) {
  const [filter, setFilter] = useState<Filter>(ALL);
  const [look, setLook] = useState<Look>("cards");
  const [chosen, setChosen] = useState<ReadonlyMap<number, RunCard>>(new Map());
  const [asking, setAsking] = useState<{ asked: Asked; runs: readonly RunCard[] } | null>(null);
  const [view, setView] = useState({ from: 0, to: 0 });
  const scroller = useRef<HTMLDivElement>(null);
  const size = useSize(scroller);
  const facets = useFacets(study);
  const { total, at, error, first } = useRunPages(study, filter, view.from, view.to);
  const cards = look === "cards";
  const across = cards
    ? Math.max(1, Math.floor(((size.width || 960) + CARD.gap) / (CARD.width + CARD.gap)))
    : 1;
  const rows = useVirtualizer({
    count: Math.ceil((total ?? 0) / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => (cards ? CARD.height : ROW),
    overscan: 3,
    onChange: (it) => {
      const items = it.getVirtualItems();
      const from = Math.floor(((items[0]?.index ?? 0) * across) / PAGE);
      const to = Math.floor((((items.at(-1)?.index ?? 0) + 1) * across - 1) / PAGE);
      setView((old) => (old.from === from && old.to === to ? old : { from, to }));
    },
  });
  const choose = (run: RunCard) =>
    setChosen((old) => {
      const next = new Map(old);
      if (!next.delete(run.id)) next.set(run.id, run);
      return next;
    });
  const clear = () => setChosen(new Map());
  const change = (next: Filter) => {
    setFilter(next);
    clear();
    scroller.current?.scrollTo({ top: 0 });
  };
  const shape = `${look} ${across}`;
  const [measured, setMeasured] = useState(shape);
  if (measured !== shape) {
    setMeasured(shape);
    rows.measure();
  }
  const draw = (i: number) => {
    const run = at(i);
    if (!run) return <div className="h-full rounded-lg border border-rule/60" />;
    const own = {
      run,
      chosen: chosen.has(run.id),
      onChoose: () => choose(run),
      menu: <RunMenu runs={[run]} onAsk={(asked) => setAsking({ asked, runs: [run] })} />,
    };
    return cards ? <RunCardView {...own} /> : <RunRow {...own} />;
  };
  const away = filter.place !== "current" || isFiltered(filter);
  if (total === 0 && !away && (facets.data?.archived ?? 0) + (facets.data?.binned ?? 0) === 0)
    return (
      <Message title="No runs in this study yet." detail="Paste a table of readings to open the first.">
        <Link to={`/studies/${study}/new`} className="text-permanganate underline">
          New run
        </Link>
      </Message>
    );
  return (
    <>
      <RunFilters filter={filter} facets={facets.data} look={look} onFilter={change} onLook={setLook} />
      <p className="mt-2 flex min-h-8 items-center gap-3 text-sm text-graphite" aria-live="polite">
        {total === undefined ? "" : total === 1 ? "1 run" : `${total.toLocaleString("en-GB")} runs`}
        {chosen.size > 0 && (
          <>
            <b className="text-ink">{countOf([...chosen])} chosen</b>
            <RunMenu
              runs={[...chosen.values()]}
              onAsk={(asked) => setAsking({ asked, runs: [...chosen.values()] })}
              onDone={clear}
            />
            <Button look="text" onClick={clear}>
              Choose none
            </Button>
          </>
        )}
      </p>
      {total === undefined ? (
        <Pending failure={error ?? first.failureReason} onRetry={() => first.refetch()} />
      ) : (
        <div ref={scroller} className="-mx-1 min-h-0 flex-1 overflow-y-auto px-1">
          {total === 0 && (
            <Message
              title={filter.place === "bin" ? "The bin is empty." : "No run is like that."}
              detail={
                filter.place === "bin"
                  ? "Runs that are thrown away lie here for 30 days."
                  : "Other words, or fewer filters, may find it. Runs that were put away are listed under “put away”."
              }
            >
              <Button look="text" onClick={() => change(ALL)}>
                Show all current runs
              </Button>
            </Message>
          )}
          <ul aria-label="Runs" className="relative" style={{ height: rows.getTotalSize() }}>
            {rows.getVirtualItems().flatMap((row) =>
              Array.from({ length: Math.min(across, total - row.index * across) }, (_, i) => (
                <li
                  key={at(row.index * across + i)?.id ?? `${row.index} ${i}`}
                  className="absolute"
                  style={{
                    top: row.start,
                    height: cards ? CARD.height - CARD.gap : ROW,
                    ...(cards
                      ? {
                          width: `calc((100% - ${(across - 1) * CARD.gap}px) / ${across})`,
                          left: `calc(${i} * (100% + ${CARD.gap}px) / ${across})`,
                        }
                      : { width: "100%", left: 0 }),
                  }}
                >
                  {draw(row.index * across + i)}
                </li>
              )),
            )}
          </ul>
        </div>
      )}
      {asking && (
        <KeepAsk
          {...asking}
          onDone={(done) => {
            setAsking(null);
            if (done) clear();
          }}
        />
      )}
    </>
  );
}
