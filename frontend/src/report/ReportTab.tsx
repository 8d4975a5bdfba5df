/* The Report tab of a run: the report as it will be printed, and which of its sections are in it. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { attempted, fetched, filed } from "../api/files";
import "../figure/faces.css";
import { useOpenRun } from "../run/state/open";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Pending } from "../ui/Message";
import { SECTIONS } from "./sections";

const PAPERS = [
  { value: "A4", text: "A4" },
  { value: "Letter", text: "Letter" },
] as const;
const WORKING = [
  { value: "first", text: "of the first answer" },
  { value: "all", text: "of every answer" },
  { value: "none", text: "of none" },
] as const;
type Working = (typeof WORKING)[number]["value"];

export function ReportTab() {
  const { view } = useOpenRun();
  const { run, revision } = view;
  // What a method says of its reports holds until a person chooses otherwise.
  const wanted = run.method?.sections ?? [];
  const [left, setLeft] = useState<readonly string[]>(() =>
    wanted.length === 0 ? [] : SECTIONS.map(({ id }) => id).filter((id) => !wanted.includes(id)),
  );
  const [paper, setPaper] = useState<"A4" | "Letter">("A4");
  const [working, setWorking] = useState<Working>("first");
  const [making, setMaking] = useState<string | null>(null);
  const kept = SECTIONS.filter(({ id }) => !left.includes(id)).map(({ id }) => id);
  const asked = `sections=${kept.join(",")}&working=${working}`;
  const report = useQuery({
    queryKey: ["report", run.id, revision.number, asked],
    placeholderData: keepPreviousData,
    queryFn: async () => (await fetched(`/api/runs/${run.id}/report?${asked}`)).text(),
  });
  const page = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (report.data === undefined || !page.current) return;
    // Its styles are its own: they reach nothing else of the page.
    const root = page.current.shadowRoot ?? page.current.attachShadow({ mode: "open" });
    const drawn = new DOMParser().parseFromString(report.data, "text/html");
    root.replaceChildren(...drawn.head.childNodes, ...drawn.body.childNodes);
  }, [report.data]);
  const save = async (form: "pdf" | "html") => {
    setMaking(form);
    await attempted(
      filed(`/api/runs/${run.id}/report.${form}?${asked}&paper=${paper}`, `${run.title} report.${form}`),
    );
    setMaking(null);
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(280px,24%)]">
      <section
        aria-label="Report"
        tabIndex={0}
        className="min-h-0 overflow-auto border-r border-rule bg-rule/40 p-6"
      >
        {report.data === undefined ? (
          <Pending failure={report.error} onRetry={report.refetch} />
        ) : (
          <div
            ref={page}
            data-report
            className={`mx-auto bg-[#fff] p-[18mm] text-[#20242c] shadow-sm ${paper === "A4" ? "w-[210mm]" : "w-[216mm]"}`}
          />
        )}
      </section>
      <section
        aria-label="What the report holds"
        className="flex flex-col gap-3 overflow-y-auto bg-chalk p-4"
      >
        <h2 className="text-lg">Report</h2>
        <fieldset className="flex flex-col gap-1">
          <legend className="sr-only">Sections</legend>
          {SECTIONS.map(({ id, text }) => (
            <label key={id} className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={!left.includes(id)}
                onChange={(event) =>
                  setLeft((now) => (event.target.checked ? now.filter((each) => each !== id) : [...now, id]))
                }
                className="accent-permanganate"
              />
              {text}
              {id === "working" && !left.includes("working") && (
                <Pick label="Working of" value={working} options={WORKING} onChange={setWorking} />
              )}
            </label>
          ))}
        </fieldset>
        <div className="flex items-center gap-2">
          <span className="text-sm text-graphite">Paper</span>
          <Pick label="Paper" value={paper} options={PAPERS} onChange={setPaper} />
        </div>
        <p className="text-sm text-graphite">
          The figure is that of the Figure tab. Pages are numbered, tables repeat their headings, text can be
          copied.
        </p>
        <div className="flex flex-wrap gap-2">
          <Button look="accent" disabled={making !== null || kept.length === 0} onClick={() => save("pdf")}>
            {making === "pdf" ? "Setting the pages …" : "Save PDF"}
          </Button>
          <Button disabled={making !== null || kept.length === 0} onClick={() => save("html")}>
            Save HTML
          </Button>
        </div>
        {kept.length === 0 && <p role="status">Choose one section at least.</p>}
        <span className="flex-1" />
        <a
          href={`/api/studies/${run.study_id}/report.pdf?${asked.replace(/working=\w+/, "working=none")}&paper=${paper}`}
          className="text-permanganate hover:underline"
        >
          Report of the whole study, with contents (PDF)
        </a>
      </section>
    </div>
  );
}
