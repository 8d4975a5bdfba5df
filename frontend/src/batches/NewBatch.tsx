/* Many files by one method: chosen or dropped, sent a part at a time, then begun. */
import { useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { answer, api, problemOf } from "../api/client";
import { newKey } from "../api/key";
import { readFiles } from "../intake/source";
import { useMethod } from "../methods/queries";
import { useStudyChoice } from "../methods/UseMethod";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Choice";
import { Field } from "../ui/Field";
import { TopBar } from "../ui/TopBar";

const AT_ONCE = 16_000_000; // bytes that are sent together
const MOST = 100; // files that are sent together

export function NewBatch() {
  const method = Number(useParams().method);
  const { data } = useMethod(method, null);
  const navigate = useNavigate();
  const { studies, study, setStudy } = useStudyChoice();
  const [files, setFiles] = useState<readonly File[]>([]);
  const [name, setName] = useState(
    () => `Batch of ${new Date().toLocaleDateString("en-GB", { dateStyle: "long" })}`,
  );
  const [dropping, setDropping] = useState(false);
  const [sent, setSent] = useState<number | null>(null);
  const [failure, setFailure] = useState("");
  const key = useRef(newKey());
  const one = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const add = (more: Iterable<File>) =>
    setFiles((old) => {
      const seen = new Set(old.map(identity));
      // Hidden files of a folder are none of ours.
      const fresh = [...more].filter((file) => !file.name.startsWith(".") && !seen.has(identity(file)));
      return [...old, ...fresh].sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));
    });
  const begin = async () => {
    setFailure("");
    setSent(0);
    try {
      const made = await answer(
        api.POST("/api/batches", { body: { name, study: Number(study), method, key: key.current } }),
      );
      let done = 0;
      for (const part of parts(files)) {
        const read = await readFiles(part);
        if (typeof read === "string") throw new Error(read);
        await answer(
          api.POST("/api/batches/{id}/files", { params: { path: { id: made.id } }, body: { files: read } }),
        );
        done += part.length;
        setSent(done);
      }
      await answer(api.POST("/api/batches/{id}/start", { params: { path: { id: made.id } } }));
      navigate(`/batches/${made.id}`);
    } catch (error) {
      key.current = newKey();
      setSent(null);
      setFailure(error instanceof Error && !("problem" in error) ? error.message : problemOf(error).detail);
    }
  };
  const ready = files.length > 0 && name.trim() !== "" && study !== "" && sent === null;
  return (
    <div className="flex h-full flex-col">
      <TopBar
        trail={[
          { text: "Methods", to: "/methods" },
          { text: data?.head.name ?? "Method", to: `/methods/${method}` },
          { text: "Many files" },
        ]}
      >
        <Button onClick={() => navigate(`/methods/${method}`)}>Cancel</Button>
        <Button look="accent" disabled={!ready} onClick={begin}>
          {files.length > 0 ? `Work ${countOf(files.length)}` : "Work them"}
        </Button>
      </TopBar>
      <main
        className={`flex min-h-0 flex-1 flex-col gap-3 p-5 ${dropping ? "bg-permanganate-tint" : ""}`}
        onDragOver={(event) => {
          event.preventDefault();
          setDropping(true);
        }}
        onDragLeave={(event) => event.currentTarget === event.target && setDropping(false)}
        onDrop={(event) => {
          event.preventDefault();
          setDropping(false);
          dropped(event.dataTransfer).then(add);
        }}
      >
        <div>
          <h1 className="text-xl">Many files by “{data?.head.name ?? "…"}”</h1>
          <p className="text-graphite">
            Each file becomes a run of its own. What cannot be worked is listed with its reason; the rest goes
            on.
          </p>
        </div>
        <div className="flex items-end gap-4">
          <Field label="Name of the batch" value={name} onChange={setName} maxLength={200} />
          <p className="flex items-center gap-2 pb-1.5">
            Runs go to
            <Pick label="Study" value={study} options={studies} onChange={setStudy} />
          </p>
        </div>
        {failure && (
          <p role="alert" className="rounded-md bg-cinnabar-tint px-3 py-2 text-cinnabar">
            {failure}
          </p>
        )}
        {sent !== null && (
          <p role="status" className="text-graphite">
            Sending: {sent} of {countOf(files.length)} …
          </p>
        )}
        <div className="flex gap-2">
          <Button disabled={sent !== null} onClick={() => one.current?.click()}>
            Choose files…
          </Button>
          <Button disabled={sent !== null} onClick={() => folder.current?.click()}>
            Choose a folder…
          </Button>
          {files.length > 0 && sent === null && (
            <Button look="text" onClick={() => setFiles([])}>
              Take all out
            </Button>
          )}
        </div>
        <input
          ref={one}
          type="file"
          multiple
          aria-label="Files"
          className="hidden"
          onChange={(event) => add(event.target.files ?? [])}
        />
        <input
          ref={folder}
          type="file"
          aria-label="Folder"
          className="hidden"
          {...{ webkitdirectory: "" }}
          onChange={(event) => add(event.target.files ?? [])}
        />
        {files.length === 0 ? (
          <p className="m-auto text-graphite">Drop files or a folder here, or choose them above.</p>
        ) : (
          <ul className="min-h-0 flex-1 overflow-y-auto rounded-md border border-rule bg-chalk">
            {files.map((file) => (
              <li key={identity(file)} className="flex gap-3 border-b border-rule px-3 py-1">
                <span className="min-w-0 flex-1 truncate">{file.name}</span>
                <span className="text-graphite">{(file.size / 1000).toFixed(1)} kB</span>
                <Button
                  look="text"
                  aria-label={`Take ${file.name} out`}
                  disabled={sent !== null}
                  onClick={() => setFiles((old) => old.filter((each) => each !== file))}
                >
                  take out
                </Button>
              </li>
            ))}
          </ul>
        )}
      </main>
    </div>
  );
}

function identity(file: File): string {
  return `${file.webkitRelativePath || file.name} ${file.size} ${file.lastModified}`;
}

function countOf(count: number): string {
  return count === 1 ? "1 file" : `${count.toLocaleString("en-GB")} files`;
}

function* parts(files: readonly File[]): Generator<File[]> {
  let part: File[] = [];
  let size = 0;
  for (const file of files) {
    if (part.length > 0 && (part.length >= MOST || size + file.size > AT_ONCE)) {
      yield part;
      [part, size] = [[], 0];
    }
    part.push(file);
    size += file.size;
  }
  if (part.length > 0) yield part;
}

/** Files that were dropped; of a folder those in it. */
async function dropped(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.()).filter((each) => each != null);
  if (entries.length === 0) return [...transfer.files];
  const found: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      found.push(
        await new Promise<File>((done, failed) => (entry as FileSystemFileEntry).file(done, failed)),
      );
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
      if (some.length === 0) return;
      for (const each of some) await walk(each);
    }
  };
  for (const entry of entries) await walk(entry);
  return found;
}
