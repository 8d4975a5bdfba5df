/* The guide opens beside whatever is worked on (F1), at its beginning or at a paragraph; it is loaded when first asked for. */
import {
  createContext,
  lazy,
  type ReactNode,
  Suspense,
  useContext,
  useEffect,
  useMemo,
  useState,
} from "react";
import { type Act, useCommands } from "./commands";

const GuidePanel = lazy(() => import("../guide/GuidePanel"));
const Opening = createContext<(at: string) => void>(() => {});

export function GuideProvider({ children }: { children: ReactNode }) {
  const [at, setAt] = useState<string | null>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "F1") return;
      event.preventDefault();
      setAt((was) => (was === null ? "" : null));
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const acts = useMemo<Act[]>(
    () => [{ id: "guide", text: "Open the guide", keys: "F1", run: () => setAt("") }],
    [],
  );
  useCommands("guide", acts);
  return (
    <Opening value={setAt}>
      <div className="flex h-full">
        <div className="min-w-0 flex-1">{children}</div>
        {at !== null && (
          <Suspense>
            <GuidePanel at={at} onClose={() => setAt(null)} />
          </Suspense>
        )}
      </div>
    </Opening>
  );
}

interface LinkProps {
  /** The paragraph it leads to, and what that is about. */
  to: string;
  about: string;
}

/** A small mark that leads to the paragraph on something. */
export function GuideLink({ to, about }: LinkProps) {
  const open = useContext(Opening);
  return (
    <button
      type="button"
      aria-label={`Guide: ${about}`}
      title={`Guide: ${about}`}
      onClick={(event) => {
        event.stopPropagation();
        open(to);
      }}
      className="grid size-[15px] shrink-0 place-items-center rounded-full border border-graphite/50 text-[10px] leading-none text-graphite hover:border-permanganate hover:text-permanganate"
    >
      ?
    </button>
  );
}

/** The field in the bar that opens the guide at its beginning. */
export function GuideButton() {
  const open = useContext(Opening);
  return (
    <button
      type="button"
      title="The guide (F1)"
      onClick={() => open("")}
      className="rounded-md px-2 py-1 text-graphite hover:text-ink"
    >
      Guide
    </button>
  );
}
