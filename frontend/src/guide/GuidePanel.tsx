/* The guide beside the work: all of it in order, what is looked for, or the paragraph that was asked for. */
import { X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Button } from "../ui/Button";
import { matching, sectionsOf } from "./sections";

const PAGES = import.meta.glob<string>("../../../docs/guide/*.md", {
  query: "?raw",
  import: "default",
  eager: true,
});
const SECTIONS = Object.keys(PAGES)
  .sort()
  .flatMap((path) => sectionsOf(PAGES[path]!));

interface Props {
  /** The section that was asked for; empty for the beginning. */
  at: string;
  onClose: () => void;
}

export default function GuidePanel({ at, onClose }: Props) {
  const [wanted, setWanted] = useState("");
  const found = useMemo(() => matching(SECTIONS, wanted), [wanted]);
  const body = useRef<HTMLDivElement>(null);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    setWanted("");
    if (at === "") field.current?.focus();
  }, [at]);
  useEffect(() => {
    if (wanted === "" && at !== "") body.current?.querySelector(`#guide-${at}`)?.scrollIntoView();
  }, [at, wanted]);
  return (
    <aside
      aria-label="Guide"
      onKeyDown={(event) => event.key === "Escape" && onClose()}
      className="fixed inset-y-0 right-0 z-30 flex w-[380px] flex-col border-l border-rule bg-chalk shadow-xl 2xl:static 2xl:shrink-0 2xl:shadow-none"
    >
      <div className="flex h-[46px] shrink-0 items-center gap-3 border-b border-rule px-4">
        <h2 className="text-lg">Guide</h2>
        <input
          ref={field}
          type="search"
          aria-label="Search the guide"
          placeholder="blank, IC50, exclude …"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
          className="min-w-0 flex-1 rounded-md border border-rule bg-paper px-2 py-0.5"
        />
        <Button look="icon" aria-label="Close the guide" onClick={onClose}>
          <X size={18} />
        </Button>
      </div>
      <div ref={body} className="min-h-0 flex-1 overflow-y-auto px-4 pb-6">
        {found.length === 0 && (
          <p className="py-4 text-graphite">
            Nothing in the guide holds these words. Try fewer, or another word for it.
          </p>
        )}
        {found.map((section, i) => (
          <section key={section.id} id={`guide-${section.id}`} className="scroll-mt-2">
            {(wanted !== "" || section.page !== found[i - 1]?.page) && (
              <p
                className={wanted === "" ? "mt-5 font-serif text-lg font-bold" : "mt-4 text-sm text-graphite"}
              >
                {section.page}
              </p>
            )}
            <h3
              className={`mt-3 font-sans ${section.id === at && wanted === "" ? "bg-permanganate-tint" : ""}`}
            >
              {section.title}
            </h3>
            <div
              className="guide-text"
              // biome-ignore lint/security/noDangerouslySetInnerHtml: our own pages, built in
              dangerouslySetInnerHTML={{ __html: section.html }}
            />
          </section>
        ))}
      </div>
    </aside>
  );
}
