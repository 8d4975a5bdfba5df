/* The figure as a file, or on the clipboard: exactly what is seen. */
import { toast } from "sonner";
import { useOpenRun } from "../run/state/open";
import { Button } from "../ui/Button";
import type { Drawn } from "./look";

export function fileOf(run: number, kind: string): string {
  return `/api/runs/${run}/figure.${kind}`;
}

/** Fetch a file of the figure; what stands in its way is said in the server's words. */
async function fetched(address: string): Promise<Blob> {
  const response = await fetch(address);
  if (!response.ok) throw new Error((await response.json()).detail ?? "The figure could not be made.");
  return response.blob();
}

export async function copyPicture(run: number): Promise<void> {
  try {
    // A promise keeps the click's permission while the picture is made.
    await navigator.clipboard.write([new ClipboardItem({ "image/png": fetched(fileOf(run, "png")) })]);
    toast.success("Figure copied as a picture.");
  } catch (error) {
    toast.error(error instanceof Error ? error.message : "The figure could not be copied.");
  }
}

async function save(address: string, name: string): Promise<void> {
  try {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await fetched(address));
    link.download = name;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  } catch (error) {
    toast.error(error instanceof Error ? error.message : "The figure could not be saved.");
  }
}

export function SaveAs({ drawn, waiting }: { drawn: Drawn; waiting: boolean }) {
  const { view } = useOpenRun();
  const { id, title } = view.run;
  const { pixels_across: across, pixels_down: down } = drawn;
  const one = (kind: string, text: string, more = "") => (
    <Button key={text} disabled={waiting} onClick={() => save(fileOf(id, kind) + more, `${title}.${kind}`)}>
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
        <Button look="accent" disabled={waiting} onClick={() => save(fileOf(id, "tiff"), `${title}.tiff`)}>
          Save TIFF
        </Button>
        {one("pdf", "PDF")}
        {one("svg", "SVG")}
        {one("png", "PNG")}
        <Button disabled={waiting} onClick={() => copyPicture(id)}>
          Copy
        </Button>
        <Button look="text" disabled={waiting} onClick={() => save(fileOf(id, "csv"), `${title} figure.csv`)}>
          CSV
        </Button>
        <Button
          look="text"
          disabled={waiting}
          title="SVG with letters as shapes, for programs that change faces"
          onClick={() => save(`${fileOf(id, "svg")}?outlines=true`, `${title}.svg`)}
        >
          SVG outlines
        </Button>
      </div>
    </div>
  );
}
