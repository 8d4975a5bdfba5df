/* The five groups of the panel: each a heading with a sentence of what is chosen, one of them open. */
import type { ReactNode } from "react";
import { AxesGroup } from "./AxesGroup";
import type { Drawn, Group, Look } from "./look";
import { NotesGroup } from "./NotesGroup";
import { PaperGroup } from "./PaperGroup";
import { SeriesGroup } from "./SeriesGroup";
import { WordsGroup } from "./WordsGroup";

export interface GroupProps {
  look: Look;
  drawn: Drawn;
  /** Width and height in mm as they come about. */
  size: [number, number];
  /** Draw a look while it is typed; and keep one, as a change of the run. */
  attempt: (look: Look) => void;
  keep: (look: Look) => void;
}

const GROUPS: {
  id: Group;
  title: string;
  says: (props: GroupProps) => string;
  panel: (props: GroupProps) => ReactNode;
}[] = [
  { id: "paper", title: "Paper", says: saysPaper, panel: PaperGroup },
  { id: "words", title: "Words", says: saysWords, panel: WordsGroup },
  { id: "axes", title: "Axes", says: saysAxes, panel: AxesGroup },
  { id: "series", title: "Series", says: saysSeries, panel: SeriesGroup },
  { id: "notes", title: "Notes", says: saysNotes, panel: NotesGroup },
];

interface Props extends GroupProps {
  open: Group;
  onOpen: (group: Group) => void;
}

export function Groups({ open, onOpen, ...props }: Props) {
  return (
    <ol className="flex flex-col gap-3">
      {GROUPS.map(({ id, title, says, panel: Panel }, i) => (
        <li key={id} className="grid grid-cols-[24px_minmax(0,1fr)] gap-x-2.5">
          <span
            aria-hidden
            className={`flex size-6 items-center justify-center rounded-full border text-sm ${open === id ? "border-ink bg-ink font-semibold text-chalk" : "border-graphite/60"}`}
          >
            {i + 1}
          </span>
          <div className="min-w-0">
            <button
              type="button"
              aria-expanded={open === id}
              onClick={() => onOpen(id)}
              className="block w-full text-left"
            >
              <span className="font-semibold">{title}</span>
              {open !== id && <span className="block text-sm text-graphite">{says(props)}</span>}
            </button>
            {open === id && <Panel {...props} />}
          </div>
        </li>
      ))}
    </ol>
  );
}

function saysPaper({ look, size }: GroupProps): string {
  return `${size[0]} × ${size[1]} mm, ${look.paper.dpi} dpi, ${look.paper.background === "white" ? "white" : "no ground"}.`;
}

function saysWords({ look }: GroupProps): string {
  const { words } = look;
  const title = words.title ? `Title “${words.title}”` : "No title";
  const axes = words.x || words.y ? "axis titles typed" : "axis titles from the data";
  return `${title}; ${axes}; ${words.face}${words.size ? `, ${words.size} pt` : ""}.`;
}

function saysAxes({ look }: GroupProps): string {
  const { axes } = look;
  const end = (axis: Look["axes"]["x"]) =>
    axis.low === null && axis.high === null ? "by itself" : `${axis.low ?? "…"} to ${axis.high ?? "…"}`;
  const drawn = axes.frame === "closed" ? "closed frame" : "two lines";
  const ticks = axes.ticks === "none" ? "no ticks" : `ticks ${axes.ticks}side`;
  return `x ${end(axes.x)}, y ${end(axes.y)}; ${drawn}, ${ticks}${axes.minor ? " with minor ones" : ""}.`;
}

function saysSeries({ look, drawn }: GroupProps): string {
  const { series } = look;
  const how = { both: "points and lines", points: "points", line: "lines" }[series.draw];
  const bars = {
    none: "no bars",
    sd: "SD",
    sem: "SEM",
    interval: "95 % intervals",
    column: "the errors given",
  };
  return `${drawn.series.length === 1 ? "One series" : `${drawn.series.length} series`} as ${how}; ${bars[series.bars]}.`;
}

function saysNotes({ look }: GroupProps): string {
  const { notes } = look;
  const all: [boolean, string][] = [
    [notes.equation, "equation"],
    [notes.r_squared, "R²"],
    [notes.count, "n"],
    [notes.marks, "read-off lines"],
    [notes.trust, "range of the standards"],
    [notes.limits, "LOD, LOQ"],
    [notes.comparison, "comparison"],
    [notes.free.length > 0, `${notes.free.length} of your own`],
  ];
  const said = all.filter(([on]) => on).map(([, text]) => text);
  return said.length ? `${said.join(", ")}.` : "None.";
}
