/* Choosing files, or dropping them: anywhere on the page, but here it says so. */
import { useRef } from "react";
import { Button } from "../ui/Button";

export const ACCEPTED = ".csv,.tsv,.txt,.tab,.asc,.dat,.xlsx,.ods,.json,.jdx,.dx,.jcm,.npy,.parquet";

export function FileBox({ busy, onFiles }: { busy: boolean; onFiles: (files: readonly File[]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div className="flex min-h-0 flex-1 flex-col items-center justify-center gap-3 rounded-lg border-2 border-dashed border-rule bg-chalk p-8 text-center">
      <p className="font-serif text-lg">Drop files here</p>
      <p className="max-w-[420px] text-graphite">
        CSV, TSV, text with any separator, XLSX, ODS, JSON or JCAMP-DX. Several files become one run: plates
        one after the other, tables with the same headings one below the other, scans side by side. A
        recording or scans as CSV, NPY or Parquet may hold up to 2 GB in one file.
      </p>
      <input
        ref={input}
        type="file"
        multiple
        accept={ACCEPTED}
        aria-label="Files of readings"
        className="sr-only"
        onChange={(event) => {
          onFiles([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Button look="accent" disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Reading …" : "Choose files…"}
      </Button>
    </div>
  );
}
