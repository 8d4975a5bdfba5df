/* Where a table lands: pasted as a whole, or typed line by line. */
import { useState } from "react";
import { Button } from "../ui/Button";

const EXAMPLE = `Sample	Phosphate (µM)	Reading 1	Reading 2	Dilution
Blank	0	0.021	0.019
Std 1	0.5	0.038	0.040
Std 2	1.0	0.057	0.060
Std 3	2.5	0.106	0.109
Std 4	5.0	0.190	0.193
Std 5	10	0.364	0.361
Pier N		0.143	0.147	× 5
Pier S		0.231	0.236	× 5
`;

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
        placeholder="Paste here: one row for each blank, standard and sample, with its name, its concentration where it is known, and its readings."
        onChange={(event) => setTyped(event.target.value)}
        className="min-h-0 flex-1 resize-none rounded-lg border border-rule bg-chalk p-4 leading-6 [tab-size:14] placeholder:text-graphite"
      />
      <div className="flex h-9 items-center gap-3">
        <Button disabled={typed.trim() === "" || busy} onClick={() => onText(typed)}>
          Read what I typed
        </Button>
        <Button look="text" disabled={busy} onClick={() => onText(EXAMPLE)}>
          Use an example table
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
