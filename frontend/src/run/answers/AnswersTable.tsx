/* Answers: one row for each sample and QC, with interval and remarks; copied and downloaded at full precision. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { type MouseEvent, memo, useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import type { Answer } from "../../api/schema";
import { Button } from "../../ui/Button";
import { RoleMark } from "../../ui/RoleMark";
import { type Selection, useWorkspace } from "../workspace";

const ROW = 27;
const GRID = "grid items-center gap-x-[5px]";
const DIGIT = 6.6; // px of a digit, with what bold adds
const NAME = { least: 84, most: 260, letter: 6.6 };
const REMARKS = 104;
const BETWEEN = 5;

/** As wide as what stands in them, so that no number is cut; the dilution only where something was diluted. */
function columnsOf(answers: readonly Answer[], diluted: boolean): React.CSSProperties {
  const wide = (least: number, of: (answer: Answer) => string) =>
    Math.ceil(
      Math.max(least, DIGIT * answers.reduce((most, each) => Math.max(most, of(each).length), 0) + 2),
    );
  const longest = answers.reduce((most, each) => Math.max(most, each.name.length), 0);
  const name = Math.min(Math.max(NAME.letter * longest + 24, NAME.least), NAME.most);
  const numbers = [
    wide(22, countOf),
    wide(40, (each) => each.shown_signal),
    wide(30, (each) => each.shown_cv),
    wide(60, (each) => each.in_reading.shown ?? ""),
    wide(78, (each) => spanOf(each.in_reading)),
    ...(diluted ? [wide(48, (each) => each.shown_dilution)] : []),
    wide(58, (each) => each.in_sample.shown ?? ""),
  ];
  return {
    gridTemplateColumns: [
      `minmax(${Math.ceil(name)}px,1fr)`,
      ...numbers.map((px) => `${px}px`),
      `minmax(${REMARKS}px,1.5fr)`,
    ].join(" "),
    minWidth: numbers.reduce((sum, px) => sum + px + BETWEEN, Math.ceil(name) + REMARKS + BETWEEN),
  };
}

function countOf(answer: Answer): string {
  return answer.n === answer.n_all ? String(answer.n) : `${answer.n} of ${answer.n_all}`;
}

function spanOf({ shown_lower: low, shown_upper: high }: Answer["in_reading"]): string {
  if (!low) return "—";
  return `${low} ${`${low}${high}`.includes("−") ? "to" : "–"} ${high}`;
}

export function AnswersTable() {
  const { view, selection, select, hovered, hover } = useWorkspace();
  const { answers: all, level_unit } = view.revision.outcome;
  const [wanted, setWanted] = useState("");
  const [order, setOrder] = useState<Order>({ by: null, down: false });
  const answers = useMemo(() => arranged(all, wanted, order), [all, wanted, order]);
  const diluted = answers.some((answer) => answer.dilution !== 1);
  const columns = useMemo(
    () =>
      columnsOf(
        all,
        all.some((answer) => answer.dilution !== 1),
      ),
    [all],
  );
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: answers.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const at = selection ? answers.findIndex((answer) => isOf(answer, selection)) : -1;
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(at, { align: "auto" });
  }, [at, rows]);
  const address = `/api/runs/${view.run.id}/answers`;
  const copy = async () => {
    try {
      // A promise keeps the click's permission while the table is fetched.
      const text = fetch(`${address}.tsv`).then((response) => {
        if (!response.ok) throw new Error("no table");
        return response.blob();
      });
      await navigator.clipboard.write([
        new ClipboardItem({ "text/plain": text.then((blob) => new Blob([blob], { type: "text/plain" })) }),
      ]);
      toast.success(all.length === 1 ? "Copied 1 answer." : `Copied ${all.length} answers.`);
    } catch {
      toast.error("The answers could not be copied. Download them as CSV instead.");
    }
  };
  return (
    <>
      <div className="mb-1.5 flex items-baseline gap-3">
        <h2 className="text-lg">Answers</h2>
        <span className="text-graphite">
          {all.length === 1 ? "1 row" : `${all.length.toLocaleString("en-GB")} rows`}
          {answers.length !== all.length && `, ${answers.length.toLocaleString("en-GB")} shown`}
          {level_unit && `, ${level_unit}`}
        </span>
        {all.length > 6 && (
          <input
            aria-label="Show only answers with"
            value={wanted}
            placeholder="name, QC, above, over …"
            onChange={(event) => setWanted(event.target.value)}
            className="w-[150px] rounded-md border border-rule bg-chalk px-2 text-md placeholder:text-graphite"
          />
        )}
        <span className="ml-auto flex gap-4">
          <Button look="text" disabled={all.length === 0} onClick={copy}>
            Copy
          </Button>
          <a className="text-permanganate hover:underline" href={`${address}.csv`} download>
            CSV
          </a>
          <a
            className="text-permanganate hover:underline"
            href={`${address}.xlsx`}
            title="Answers, parameters, checks, layout and readings, each on a sheet"
            download
          >
            XLSX
          </a>
        </span>
      </div>
      {all.length === 0 ? (
        <p className="text-graphite">
          No samples or QCs in this run. Select readings and press A to say that they are samples.
        </p>
      ) : (
        // biome-ignore lint/a11y/useKeyWithClickEvents: the button in each row is pressed by key
        <div
          ref={scroller}
          role="table"
          aria-label="Answers"
          aria-rowcount={answers.length}
          onClick={(event) => {
            const answer = answers.find((each) => keyOf(each) === keyAt(event));
            if (answer) select({ group: answer.group, reading: answer.reading ?? null });
          }}
          onPointerOver={(event) => hover(keyAt(event)?.split(":")[0] ?? null)}
          onPointerLeave={() => hover(null)}
          className="min-h-0 flex-1 overflow-auto text-md"
        >
          <div
            role="row"
            style={columns}
            className={`${GRID} sticky top-0 z-10 border-b border-rule bg-paper pb-1 text-sm text-graphite`}
          >
            <span role="columnheader" aria-sort={sortOf(order, "Sample")}>
              <SortButton name="Sample" order={order} onOrder={setOrder} />
            </span>
            {[
              "n",
              "Signal",
              "CV %",
              "In reading",
              "95 % interval",
              ...(diluted ? ["Dilution"] : []),
              "In sample",
            ].map((name) => (
              <span role="columnheader" key={name} className="text-right" aria-sort={sortOf(order, name)}>
                {name === "95 % interval" ? (
                  intervalName(view.revision.method.steps)
                ) : (
                  <SortButton name={name} order={order} onOrder={setOrder} />
                )}
              </span>
            ))}
            <span role="columnheader" className="pl-2">
              Remarks
            </span>
          </div>
          <div style={{ height: rows.getTotalSize() }} className="relative">
            {rows.getVirtualItems().map((item) => {
              const answer = answers[item.index]!;
              return (
                <AnswerRow
                  key={keyOf(answer)}
                  answer={answer}
                  top={item.start}
                  columns={columns}
                  diluted={diluted}
                  selected={selection !== null && isOf(answer, selection)}
                  hovered={hovered === answer.group}
                />
              );
            })}
          </div>
        </div>
      )}
    </>
  );
}

interface Order {
  by: string | null;
  down: boolean;
}

const KEYS: Record<string, (answer: Answer) => number | string | null> = {
  Sample: (answer) => answer.name,
  n: (answer) => answer.n,
  Signal: (answer) => answer.signal,
  "CV %": (answer) => answer.cv,
  "In reading": (answer) => value(answer.in_reading),
  Dilution: (answer) => answer.dilution,
  "In sample": (answer) => value(answer.in_sample),
};

/** A bound sorts beyond every number it bounds. */
function value(found: Answer["in_sample"]): number | null {
  if (found.value != null) return found.value;
  if (found.censor === ">") return Number.MAX_VALUE;
  return found.censor ? -Number.MAX_VALUE : null;
}

const NAMES = new Intl.Collator("en", { numeric: true });

/** Those that hold every word, in the order asked for; those without a value last. */
function arranged(all: readonly Answer[], wanted: string, order: Order): readonly Answer[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const kept = words.length
    ? all.filter((answer) => {
        const text =
          `${answer.name} ${answer.role} ${answer.remarks?.map((r) => r.short).join(" ")}`.toLowerCase();
        return words.every((word) => text.includes(word));
      })
    : all;
  if (order.by === null) return kept;
  const key = KEYS[order.by]!;
  const sign = order.down ? -1 : 1;
  return [...kept].sort((a, b) => {
    const [one, other] = [key(a), key(b)];
    if (one === null || other === null) return one === other ? 0 : one === null ? 1 : -1;
    return sign * (typeof one === "string" ? NAMES.compare(one, String(other)) : one - Number(other));
  });
}

function sortOf(order: Order, name: string): "ascending" | "descending" | "none" {
  return order.by !== name ? "none" : order.down ? "descending" : "ascending";
}

function SortButton({
  name,
  order,
  onOrder,
}: {
  name: string;
  order: Order;
  onOrder: (order: Order) => void;
}) {
  const next =
    order.by !== name
      ? { by: name, down: false }
      : order.down
        ? { by: null, down: false }
        : { by: name, down: true };
  return (
    <button type="button" className="hover:text-ink" onClick={() => onOrder(next)}>
      {name}
      {order.by === name && (order.down ? " ↓" : " ↑")}
    </button>
  );
}

/** What tells an answer from all others of the run. */
function keyOf(answer: Answer): string {
  return answer.key || answer.group;
}

/** Whether it is the answer of what is selected: its group, and its reading where each has its own. */
function isOf(answer: Answer, { group, reading }: Selection): boolean {
  return answer.group === group && (answer.reading == null || reading === null || answer.reading === reading);
}

function keyAt(event: MouseEvent): string | undefined {
  return (event.target as HTMLElement).closest<HTMLElement>("[data-answer]")?.dataset.answer;
}

function intervalName(steps: readonly { kind?: string; level?: number | null }[]): string {
  const level = steps.find((step) => step.kind === "read_back" || step.kind === "additions")?.level ?? 0.95;
  return `${level * 100} % interval`;
}

interface RowProps {
  answer: Answer;
  top: number;
  columns: React.CSSProperties;
  diluted: boolean;
  selected: boolean;
  hovered: boolean;
}

const AnswerRow = memo(function AnswerRow({ answer, top, columns, diluted, selected, hovered }: RowProps) {
  const { in_reading, in_sample } = answer;
  const remark = answer.remarks?.[0];
  return (
    <div
      role="row"
      aria-selected={selected}
      data-answer={keyOf(answer)}
      style={{ ...columns, transform: `translateY(${top}px)`, height: ROW }}
      className={`${GRID} absolute inset-x-0 cursor-pointer border-b border-rule/70 ${selected ? "bg-permanganate-tint" : hovered ? "bg-rule/40" : ""}`}
    >
      <span role="cell" className="min-w-0">
        <button
          type="button"
          className="flex w-full items-center gap-1.5 text-left font-semibold"
          title={`${answer.name}: show working`}
        >
          <RoleMark role={answer.role} />
          <span className="truncate" title={answer.name}>
            {answer.name}
          </span>
        </button>
      </span>
      <Num>{countOf(answer)}</Num>
      <Num full={answer.signal}>{answer.shown_signal}</Num>
      <Num full={answer.cv}>{answer.shown_cv}</Num>
      <Num full={in_reading.value}>{in_reading.shown ?? ""}</Num>
      <Num>{spanOf(in_reading)}</Num>
      {diluted && <Num>{answer.shown_dilution}</Num>}
      <Num full={in_sample.value} strong>
        {in_sample.shown ?? ""}
      </Num>
      <span
        role="cell"
        className="min-w-0 truncate pl-2"
        title={answer.remarks?.map((each) => each.text).join(" ")}
      >
        {answer.shown_recovery && (
          <span className="text-graphite" title={recovered(answer)}>
            recovery {answer.shown_recovery}{" "}
          </span>
        )}
        {remark && (
          <span className={`text-sm ${remark.state === "fail" ? "text-cinnabar" : "text-iodine"}`}>
            {shortRemarks(answer)}
          </span>
        )}
      </span>
    </div>
  );
});

/** Shortest first, so that where they are cut no number is. */
function shortRemarks(answer: Answer): string {
  return answer
    .remarks!.map((each) => each.short)
    .sort((a, b) => a.length - b.length)
    .join(", ");
}

function recovered({ recovery_lower: low, recovery_upper: high }: Answer): string | undefined {
  if (low == null || high == null) return undefined;
  return `Of what was added; 95 % interval ${Math.round(100 * low)} to ${Math.round(100 * high)} %`;
}

function Num({ children, full, strong }: { children: string; full?: number | null; strong?: boolean }) {
  return (
    <span
      role="cell"
      className={`whitespace-nowrap text-right ${strong ? "font-bold" : ""}`}
      title={full == null ? undefined : `In full: ${full}`}
    >
      {children}
    </span>
  );
}
