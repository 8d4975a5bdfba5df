/* The figure as a file, or on the clipboard: exactly what is seen. */
import { useState } from "react";
import { toast } from "sonner";
import { problemOf } from "../api/client";
import { useOpenRun } from "../run/state/open";
import { Button } from "../ui/Button";
import { copied, filed, fileOf } from "./files";
import type { Drawn } from "./look";

async function attempt(what: Promise<unknown>): Promise<boolean> {
  try {
    await what;
    return true;
  } catch (error) {
    const problem = problemOf(error);
    toast.error(problem.detail || problem.title);
    return false;
  }
}

export function SaveAs({ drawn, waiting }: { drawn: Drawn; waiting: boolean }) {
  const { view } = useOpenRun();
  const { id, title } = view.run;
  // Said here: a notice in the corner would lie over the very buttons.
  const [isCopied, setCopied] = useState(false);
  const { pixels_across: across, pixels_down: down } = drawn;
  const one = (kind: string, text: string, more = "") => (
    <Button
      key={text}
      disabled={waiting}
      onClick={() => attempt(filed(fileOf(id, kind) + more, `${title}.${kind}`))}
    >
      {text}
    </Button>
  );
  return (
    <div className="border-t border-rule pt-3">
      <p className="pb-2 text-sm text-graphite">
        The file is what you see: {across.toLocaleString("en-GB")} × {down.toLocaleString("en-GB")} pixels as
        a picture, fonts embedded.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Button
          look="accent"
          disabled={waiting}
          onClick={() => attempt(filed(fileOf(id, "tiff"), `${title}.tiff`))}
        >
          Save TIFF
        </Button>
        {one("pdf", "PDF")}
        {one("svg", "SVG")}
        {one("png", "PNG")}
        <Button disabled={waiting} onClick={() => attempt(copied(fileOf(id, "png"))).then(setCopied)}>
          Copy
        </Button>
        <Button
          look="text"
          disabled={waiting}
          onClick={() => attempt(filed(fileOf(id, "csv"), `${title} figure.csv`))}
        >
          CSV
        </Button>
        <Button
          look="text"
          disabled={waiting}
          title="SVG with letters as shapes, for programs that change faces"
          onClick={() => attempt(filed(`${fileOf(id, "svg")}?outlines=true`, `${title}.svg`))}
        >
          SVG outlines
        </Button>
      </div>
      <p role="status" className="pt-1 text-sm text-malachite">
        {isCopied && "Figure copied as a picture."}
      </p>
    </div>
  );
}
