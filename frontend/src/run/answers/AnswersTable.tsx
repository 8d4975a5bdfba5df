/* Answers: one row for each sample and QC, with interval and remarks; copied and downloaded at full precision. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { type MouseEvent, memo, useEffect, useRef } from "react";
import { toast } from "sonner";
import type { Answer } from "../../api/schema";
import { Button } from "../../ui/Button";
import { RoleMark } from "../../ui/RoleMark";
import { useWorkspace } from "../workspace";

const ROW = 27;
const GRID = "grid items-center gap-x-[5px]";
/** The dilution has a column only where something was diluted. */
const columns = (diluted: boolean) => ({
  gridTemplateColumns: `minmax(82px,1fr) 36px 48px 34px 54px 86px ${diluted ? "46px " : ""}56px minmax(112px,1.4fr)`,
});

export function AnswersTable() {
  const { view, selection, select, hovered, hover } = useWorkspace();
  const { answers, level_unit } = view.revision.outcome;
  const diluted = answers.some((answer) => answer.dilution !== 1);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: answers.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const at = selection ? answers.findIndex((answer) => answer.group === selection.group) : -1;
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
      toast.success(answers.length === 1 ? "Copied 1 answer." : `Copied ${answers.length} answers.`);
    } catch {
      toast.error("The answers could not be copied. Download them as CSV instead.");
    }
  };
  return (
    <>
      <div className="mb-1.5 flex items-baseline gap-3">
        <h2 className="text-lg">Answers</h2>
        <span className="text-graphite">
          {answers.length === 1 ? "1 row" : `${answers.length.toLocaleString("en-GB")} rows`}
          {level_unit && `, ${level_unit}`}
        </span>
        <span className="ml-auto flex gap-4">
          <Button look="text" disabled={answers.length === 0} onClick={copy}>
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
      {answers.length === 0 ? (
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
            const group = groupOf(event);
            if (group) select({ group, reading: null });
          }}
          onPointerOver={(event) => hover(groupOf(event) ?? null)}
          onPointerLeave={() => hover(null)}
          className="min-h-0 flex-1 overflow-auto text-md"
        >
          <div
            role="row"
            style={columns(diluted)}
            className={`${GRID} sticky top-0 z-10 border-b border-rule bg-paper pb-1 text-sm text-graphite`}
          >
            <span role="columnheader">Sample</span>
            {[
              "n",
              "Signal",
              "CV %",
              "In reading",
              "95 % interval",
              ...(diluted ? ["Dilution"] : []),
              "In sample",
            ].map((name) => (
              <span role="columnheader" key={name} className="text-right">
                {name === "95 % interval" ? intervalName(view.revision.method.steps) : name}
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
                  key={answer.group}
                  answer={answer}
                  top={item.start}
                  diluted={diluted}
                  selected={selection?.group === answer.group}
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

function groupOf(event: MouseEvent): string | undefined {
  return (event.target as HTMLElement).closest<HTMLElement>("[data-answer]")?.dataset.answer;
}

function intervalName(steps: readonly { kind?: string; level?: number }[]): string {
  const level = steps.find((step) => step.kind === "read_back")?.level ?? 0.95;
  return `${level * 100} % interval`;
}

interface RowProps {
  answer: Answer;
  top: number;
  diluted: boolean;
  selected: boolean;
  hovered: boolean;
}

const AnswerRow = memo(function AnswerRow({ answer, top, diluted, selected, hovered }: RowProps) {
  const { in_reading, in_sample } = answer;
  const remark = answer.remarks?.[0];
  return (
    <div
      role="row"
      aria-selected={selected}
      data-answer={answer.group}
      style={{ ...columns(diluted), transform: `translateY(${top}px)`, height: ROW }}
      className={`${GRID} absolute inset-x-0 cursor-pointer border-b border-rule/70 ${selected ? "bg-permanganate-tint" : hovered ? "bg-rule/40" : ""}`}
    >
      <span role="cell" className="min-w-0">
        <button
          type="button"
          className="flex w-full items-center gap-1.5 text-left font-semibold"
          title={`${answer.name}: show working`}
        >
          <RoleMark role={answer.role} />
          <span className="truncate">{answer.name}</span>
        </button>
      </span>
      <Num>{answer.n === answer.n_all ? String(answer.n) : `${answer.n} of ${answer.n_all}`}</Num>
      <Num full={answer.signal}>{answer.shown_signal}</Num>
      <Num full={answer.cv}>{answer.shown_cv}</Num>
      <Num full={in_reading.value}>{in_reading.shown ?? ""}</Num>
      <Num>{in_reading.shown_lower ? `${in_reading.shown_lower} – ${in_reading.shown_upper}` : "—"}</Num>
      {diluted && <Num>{answer.shown_dilution}</Num>}
      <Num full={in_sample.value} strong>
        {in_sample.shown ?? ""}
      </Num>
      <span
        role="cell"
        className="min-w-0 truncate pl-2"
        title={answer.remarks?.map((each) => each.text).join(" ")}
      >
        {answer.shown_recovery && <span className="text-graphite">recovery {answer.shown_recovery} </span>}
        {remark && (
          <span className={`text-sm ${remark.state === "fail" ? "text-cinnabar" : "text-iodine"}`}>
            {answer.remarks!.map((each) => each.short).join(", ")}
          </span>
        )}
      </span>
    </div>
  );
});

function Num({ children, full, strong }: { children: string; full?: number | null; strong?: boolean }) {
  return (
    <span
      role="cell"
      className={`truncate text-right ${strong ? "font-bold" : ""}`}
      title={full == null ? undefined : `In full: ${full}`}
    >
      {children}
    </span>
  );
}
