/* Where a table lands: pasted as a whole, or typed line by line. */
import { useState } from "react";
import { Button } from "../ui/Button";

const EXAMPLE =
  "Sample\tPhosphate (µM)\tReading 1\tReading 2\tDilution\nBlank\t0\t0.021\t0.019\nStd 1\t0.5\t0.038\t0.040\nStd 2\t1.0\t0.057\t0.060\nPier N\t\t0.143\t0.147\t× 5";

export function PasteBox({ busy, onText }: { busy: boolean; onText: (text: string) => void }) {
  const [typed, setTyped] = useState("");
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <textarea
        // biome-ignore lint/a11y/noAutofocus: pasting is the one thing this page is opened for
        autoFocus
        aria-label="Table of readings"
        value={typed}
        spellCheck={false}
        placeholder={`Paste here, for example\n\n${EXAMPLE}`}
        onChange={(event) => setTyped(event.target.value)}
        className="min-h-0 flex-1 resize-none rounded-lg border border-rule bg-chalk p-4 leading-6 [tab-size:14] placeholder:text-graphite"
      />
      <div className="flex h-9 items-center gap-3">
        <Button disabled={typed.trim() === "" || busy} onClick={() => onText(typed)}>
          Read what I typed
        </Button>
        {busy && (
          <span role="status" className="text-graphite">
            Reading …
          </span>
        )}
      </div>
    </div>
  );
}
