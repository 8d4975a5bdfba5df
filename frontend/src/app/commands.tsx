/* The command menu (Ctrl K) and the sheet of keyboard shortcuts (?): every screen offers what can be done on it. */
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { lastStudy } from "../home/lastStudy";
import { Ask } from "../ui/Ask";
import { SHORT_CUTS } from "./shortcuts";
import { chooseTheme, type Theme } from "./theme";

export interface Act {
  id: string;
  text: string;
  keys?: string;
  disabled?: boolean;
  /** Found by its words only: there are too many of its kind to list them all. */
  quiet?: boolean;
  run: () => void;
}

interface Registry {
  offer: (source: string, acts: readonly Act[]) => () => void;
  open: () => void;
}

const Commands = createContext<Registry | null>(null);

/** Offer what can be done on a screen for as long as it is shown. */
export function useCommands(source: string, acts: readonly Act[]): void {
  const registry = useContext(Commands);
  useEffect(() => registry?.offer(source, acts), [registry, source, acts]);
}

/** The field in the bar that opens the menu. */
export function CommandField() {
  const registry = useContext(Commands);
  return (
    <button
      type="button"
      title="Find a run, or do something (Ctrl K)"
      onClick={() => registry?.open()}
      className="flex items-center gap-2 whitespace-nowrap rounded-md border border-rule bg-paper px-2.5 py-1 text-graphite hover:border-graphite"
    >
      <span className="max-[1450px]:sr-only">Find or do…</span>
      <kbd className="rounded border border-rule bg-chalk px-1 text-xs">Ctrl K</kbd>
    </button>
  );
}

export function CommandProvider({ children }: { children: ReactNode }) {
  const navigate = useNavigate();
  const [offered, setOffered] = useState<Record<string, readonly Act[]>>({});
  const [open, setOpen] = useState(false);
  const [sheet, setSheet] = useState(false);
  const [text, setText] = useState("");
  const registry = useMemo<Registry>(
    () => ({
      offer: (source, acts) => {
        setOffered((old) => ({ ...old, [source]: acts }));
        return () => setOffered(({ [source]: _, ...rest }) => rest);
      },
      open: () => setOpen(true),
    }),
    [],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setOpen((was) => !was);
      } else if (event.key === "?" && !(event.target as HTMLElement).closest("input, textarea")) {
        setSheet(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const runs = useQuery({
    queryKey: ["find", text],
    enabled: open,
    placeholderData: (previous) => previous,
    queryFn: () =>
      answer(api.GET("/api/runs", { params: { query: { find: text, place: "anywhere", count: 12 } } })),
  });
  const studies = useQuery({
    queryKey: ["studies"],
    enabled: open,
    queryFn: () => answer(api.GET("/api/studies")),
  });
  const close = (then: () => void) => {
    setOpen(false);
    setText("");
    then();
  };
  const acts = Object.values(offered)
    .flat()
    .filter((act) => !act.disabled && (text.trim() !== "" || !act.quiet));
  return (
    <Commands.Provider value={registry}>
      {children}
      <Command.Dialog
        open={open}
        onOpenChange={(next) => {
          setOpen(next);
          if (!next) setText("");
        }}
        label="Find a run or do something"
        overlayClassName="fixed inset-0 z-40 bg-ink/25"
        contentClassName="fixed top-[12%] left-1/2 z-50 w-[560px] -translate-x-1/2 overflow-hidden rounded-lg border border-rule bg-chalk shadow-xl"
      >
        <Command.Input
          value={text}
          onValueChange={setText}
          placeholder="Find a run, or say what to do"
          className="w-full border-b border-rule bg-transparent px-4 py-3 outline-none"
        />
        <Command.List className="max-h-[400px] overflow-y-auto p-2">
          <Command.Empty className="p-3 text-graphite">Nothing matches these words.</Command.Empty>
          <Group heading="Do">
            {acts.map((act) => (
              <Item key={act.id} value={act.text} keys={act.keys} onSelect={() => close(act.run)} />
            ))}
            {studies.data?.length ? (
              <Item
                value="New run"
                onSelect={() => close(() => navigate(`/studies/${here(studies.data!)}/new`))}
              />
            ) : null}
            <Item value="Home: all studies" onSelect={() => close(() => navigate("/"))} />
            <Item value="Methods: recipes and trends" onSelect={() => close(() => navigate("/methods"))} />
            <Item value="Batches: many files" onSelect={() => close(() => navigate("/batches"))} />
            {THEMES.map(({ theme, text }) => (
              <Item key={theme} value={text} onSelect={() => close(() => chooseTheme(theme))} />
            ))}
            <Item value="Show all keyboard shortcuts" keys="?" onSelect={() => close(() => setSheet(true))} />
            <Item value="Read about the API" onSelect={() => close(() => navigate("/api"))} />
          </Group>
          <Group heading="Runs">
            {runs.data?.runs.map((run) => (
              <Item
                key={run.id}
                value={`${run.title} · ${run.study} #${run.id}`}
                text={run.title}
                more={run.study}
                onSelect={() => close(() => navigate(`/runs/${run.id}`))}
              />
            ))}
          </Group>
          <Group heading="Studies">
            {studies.data?.map((study) => (
              <Item
                key={study.id}
                value={`${study.name} ${study.id}`}
                text={study.name}
                onSelect={() => close(() => navigate(`/studies/${study.id}`))}
              />
            ))}
          </Group>
        </Command.List>
      </Command.Dialog>
      <Ask title="Keyboard shortcuts" open={sheet} onClose={() => setSheet(false)} wide>
        <div className="grid grid-cols-2 gap-x-8 gap-y-4">
          {SHORT_CUTS.map(({ title, keys }) => (
            <section key={title}>
              <h3 className="mb-1 font-sans text-sm text-graphite">{title}</h3>
              <dl className="grid grid-cols-[128px_1fr] gap-y-1">
                {keys.map(([chord, what]) => (
                  <div key={chord} className="contents">
                    <dt>
                      <kbd className="rounded border border-rule px-1.5 text-sm">{chord}</kbd>
                    </dt>
                    <dd>{what}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </div>
      </Ask>
    </Commands.Provider>
  );
}

const THEMES: { theme: Theme; text: string }[] = [
  { theme: "light", text: "Theme: light" },
  { theme: "dark", text: "Theme: dark" },
  { theme: "system", text: "Theme: as the system has it" },
];

/** The study that is looked at, or was last, or the first there is. */
function here(studies: readonly { id: number }[]): number {
  const shown = /^\/studies\/(\d+)/.exec(window.location.pathname)?.[1];
  const last = studies.find((each) => each.id === lastStudy());
  return shown ? Number(shown) : (last ?? studies[0]!).id;
}

function Group({ heading, children }: { heading: string; children: ReactNode }) {
  return (
    <Command.Group
      heading={heading}
      className="mb-1 [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:py-1 [&_[cmdk-group-heading]]:text-sm [&_[cmdk-group-heading]]:text-graphite"
    >
      {children}
    </Command.Group>
  );
}

interface ItemProps {
  value: string;
  text?: string;
  more?: string;
  keys?: string | undefined;
  onSelect: () => void;
}

function Item({ value, text, more, keys, onSelect }: ItemProps) {
  return (
    <Command.Item
      value={value}
      onSelect={onSelect}
      className="flex cursor-pointer items-baseline gap-3 rounded-md px-3 py-1.5 data-[selected=true]:bg-permanganate-tint"
    >
      <span className="min-w-0 flex-1 truncate">{text ?? value}</span>
      {more && <span className="text-sm text-graphite">{more}</span>}
      {keys && <kbd className="rounded border border-rule px-1 text-xs text-graphite">{keys}</kbd>}
    </Command.Item>
  );
}
