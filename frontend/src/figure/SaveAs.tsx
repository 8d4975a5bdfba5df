/* The figure as a file, or on the clipboard: exactly what is seen. */
import { useState } from "react";
import { attempted, copied, filed, fileOf } from "../api/files";
import { useOpenRun } from "../run/state/open";
import { Button } from "../ui/Button";
import type { Drawn } from "./look";

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
      onClick={() => attempted(filed(fileOf(id, kind) + more, `${title}.${kind}`))}
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
          onClick={() => attempted(filed(fileOf(id, "tiff"), `${title}.tiff`))}
        >
          Save TIFF
        </Button>
        {one("pdf", "PDF")}
        {one("svg", "SVG")}
        {one("png", "PNG")}
        <Button disabled={waiting} onClick={() => attempted(copied(fileOf(id, "png"))).then(setCopied)}>
          Copy
        </Button>
        <Button
          look="text"
          disabled={waiting}
          onClick={() => attempted(filed(fileOf(id, "csv"), `${title} figure.csv`))}
        >
          CSV
        </Button>
        <Button
          look="text"
          disabled={waiting}
          title="SVG with letters as shapes, for programs that change faces"
          onClick={() => attempted(filed(`${fileOf(id, "svg")}?outlines=true`, `${title}.svg`))}
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
