/* Typing readings: a grid moved in with the keyboard, for those who read an instrument by eye. */
import { type ClipboardEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import { Button } from "../ui/Button";
import { MOVES } from "../ui/moves";
import {
  asText,
  blank,
  type Cells,
  corners,
  filledDown,
  filledOn,
  fromText,
  inside,
  type Place,
  type Range,
  written,
} from "./grid";

const HEADINGS = ["Sample", "Conc (µM)", "Reading 1", "Reading 2", "Dilution"];
const START: Cells = written(blank(14, HEADINGS.length), { row: 0, column: 0 }, [HEADINGS]);
interface Props {
  active: boolean;
  busy: boolean;
  onText: (text: string) => void;
}

export function TypingGrid({ active, busy, onText }: Props) {
  const [history, setHistory] = useState<{ done: Cells[]; undone: Cells[] }>({ done: [START], undone: [] });
  const [range, setRange] = useState<Range>({ from: { row: 1, column: 0 }, to: { row: 1, column: 0 } });
  const [draft, setDraft] = useState<string | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const editor = useRef<HTMLInputElement>(null);
  const cells = history.done.at(-1)!;
  const here = range.to;
  const width = cells[0]!.length;
  const box = corners(range);

  const editing = draft !== null;
  useEffect(() => {
    if (active) frame.current?.focus();
  }, [active]);
  useEffect(() => {
    if (editing) editor.current?.focus();
  }, [editing]);
  useEffect(() => {
    document
      .getElementById(`typed-${here.row}-${here.column}`)
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [here]);

  const put = (next: Cells) => setHistory(({ done }) => ({ done: [...done.slice(-199), next], undone: [] }));
  const go = (row: number, column: number, extend = false) => {
    const to: Place = { row: Math.max(row, 0), column: Math.min(Math.max(column, 0), width - 1) };
    if (to.row >= cells.length) put(written(cells, { row: to.row, column: 0 }, [[""]]));
    setRange((old) => ({ from: extend ? old.from : to, to }));
  };
  const commit = (row: number, column: number) => {
    if (draft !== null && draft !== cells[here.row]![here.column]) put(written(cells, here, [[draft]]));
    setDraft(null);
    frame.current?.focus();
    go(row, column);
  };
  const undo = () =>
    setHistory(({ done, undone }) =>
      done.length > 1 ? { done: done.slice(0, -1), undone: [done.at(-1)!, ...undone] } : { done, undone },
    );
  const redo = () =>
    setHistory(({ done, undone }) =>
      undone.length ? { done: [...done, undone[0]!], undone: undone.slice(1) } : { done, undone },
    );
  const onKey = (event: KeyboardEvent) => {
    if (draft !== null) {
      if (event.key === "Enter") commit(here.row + 1, here.column);
      else if (event.key === "Tab") commit(here.row, here.column + (event.shiftKey ? -1 : 1));
      else if (event.key === "ArrowDown" || event.key === "ArrowUp")
        commit(here.row + (event.key === "ArrowDown" ? 1 : -1), here.column);
      else if (event.key === "Escape") {
        setDraft(null);
        frame.current?.focus();
      } else return;
      event.preventDefault();
      return;
    }
    const move = MOVES[event.key];
    const command = event.ctrlKey || event.metaKey;
    if (move) go(here.row + move[0], here.column + move[1], event.shiftKey);
    else if (command && event.key.toLowerCase() === "z" && !event.shiftKey) undo();
    else if (command && (event.key.toLowerCase() === "y" || event.key.toLowerCase() === "z")) redo();
    else if (command && event.key.toLowerCase() === "d") put(filledDown(cells, range));
    else if (command && event.key.toLowerCase() === "e") put(filledOn(cells, range));
    else if (event.key === "Enter") {
      // Past the last column a person begins the next line.
      go(here.row + 1, here.column);
    } else if (event.key === "Tab") {
      if (event.shiftKey ? here.column === 0 && here.row === 0 : false) return;
      if (!event.shiftKey && here.column === width - 1) go(here.row + 1, 0);
      else go(here.row, here.column + (event.shiftKey ? -1 : 1));
    } else if (event.key === "Delete" || event.key === "Backspace") {
      put(
        written(
          cells,
          { row: box.top, column: box.left },
          inside(cells, range).map((line) => line.map(() => "")),
        ),
      );
    } else if (event.key === "F2") setDraft(cells[here.row]![here.column]!);
    else if (event.key.length === 1 && !command && !event.altKey) setDraft(event.key);
    else return;
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent) => {
    if (draft !== null) return;
    event.preventDefault();
    event.stopPropagation();
    const block = fromText(event.clipboardData.getData("text/plain"));
    put(written(cells, { row: box.top, column: box.left }, block));
    setRange({
      from: { row: box.top, column: box.left },
      to: {
        row: box.top + block.length - 1,
        column: box.left + Math.max(...block.map((line) => line.length)) - 1,
      },
    });
  };
  const onCopy = (event: ClipboardEvent) => {
    if (draft !== null) return;
    event.preventDefault();
    event.clipboardData.setData(
      "text/plain",
      inside(cells, range)
        .map((line) => line.join("\t"))
        .join("\n"),
    );
  };
  const filled = cells.slice(1).some((line) => line.some((cell) => cell.trim() !== ""));
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <div
        ref={frame}
        role="grid"
        tabIndex={0}
        aria-label="Typed table"
        aria-activedescendant={`typed-${here.row}-${here.column}`}
        onKeyDown={onKey}
        onPaste={onPaste}
        onCopy={onCopy}
        className="min-h-0 flex-1 overflow-auto rounded-lg border border-rule bg-chalk"
      >
        {cells.map((line, r) => (
          <div
            role="row"
            key={r}
            className={`grid border-b border-rule/70 ${r === 0 ? "sticky top-0 z-10 bg-paper font-semibold" : ""}`}
            style={{ gridTemplateColumns: `40px repeat(${width}, minmax(96px, 1fr))` }}
          >
            <span className="px-2 leading-7 text-graphite" aria-hidden>
              {r === 0 ? "" : r}
            </span>
            {line.map((cell, c) => {
              const on = r >= box.top && r <= box.bottom && c >= box.left && c <= box.right;
              const current = r === here.row && c === here.column;
              return (
                <div
                  role="gridcell"
                  tabIndex={-1}
                  id={`typed-${r}-${c}`}
                  key={c}
                  aria-selected={on}
                  onPointerDown={(event) => {
                    if (draft !== null) commit(r, c);
                    else if (event.shiftKey)
                      setRange((old) => ({ from: old.from, to: { row: r, column: c } }));
                    else setRange({ from: { row: r, column: c }, to: { row: r, column: c } });
                  }}
                  onPointerEnter={(event) => {
                    if (event.buttons === 1 && draft === null)
                      setRange((old) => ({ from: old.from, to: { row: r, column: c } }));
                  }}
                  onDoubleClick={() => setDraft(cell)}
                  className={`h-7 truncate border-l border-rule/70 px-2 leading-7 select-none ${c > 0 && r > 0 ? "text-right" : ""} ${on ? "bg-permanganate-tint" : ""} ${current ? "outline-2 -outline-offset-2 outline-permanganate" : "outline-none"}`}
                >
                  {current && draft !== null ? (
                    <input
                      ref={editor}
                      aria-label={`Row ${r}, column ${c + 1}`}
                      value={draft}
                      onChange={(event) => setDraft(event.target.value)}
                      onBlur={() => draft !== null && commit(here.row, here.column)}
                      className={`w-full bg-transparent outline-none ${c > 0 && r > 0 ? "text-right" : ""}`}
                    />
                  ) : (
                    cell
                  )}
                </div>
              );
            })}
          </div>
        ))}
      </div>
      <div className="flex h-9 flex-wrap items-center gap-3">
        <Button look="accent" disabled={!filled || busy} onClick={() => onText(asText(cells))}>
          Read this table
        </Button>
        <Button
          look="text"
          onClick={() => put(written(cells, { row: 0, column: width }, [[`Reading ${width - 2}`]]))}
        >
          Add a column
        </Button>
        <Button
          look="text"
          title="Ctrl D"
          disabled={box.top === box.bottom}
          onClick={() => put(filledDown(cells, range))}
        >
          Fill down
        </Button>
        <Button
          look="text"
          title="Ctrl E"
          disabled={box.top === box.bottom}
          onClick={() => put(filledOn(cells, range))}
        >
          Fill series
        </Button>
        <Button look="text" title="Ctrl Z" disabled={history.done.length < 2} onClick={undo}>
          Undo
        </Button>
        <span className="text-sm text-graphite">Enter goes down, Tab across; ranges can be pasted.</span>
      </div>
    </div>
  );
}
