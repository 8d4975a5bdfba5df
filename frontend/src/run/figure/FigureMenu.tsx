/* Taking the figure along as it stands: SVG or PNG, copied or downloaded. */

import { DropdownMenu } from "radix-ui";
import type { RefObject } from "react";
import { toast } from "sonner";
import { inLight } from "../../app/theme";
import { Button } from "../../ui/Button";
import { useOpenRun } from "../state/open";

const ITEM = "rounded-md px-3 py-1 outline-none data-[highlighted]:bg-permanganate-tint";
const SCALE = 3; // pixels of the picture for each of the screen, enough for print

/** The figure with its colors and faces written in, since outside the page nobody knows our tokens. */
function standalone(frame: HTMLElement): { text: string; width: number; height: number } | null {
  const drawn = frame.querySelector("svg");
  if (!drawn) return null;
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("font-family", "'Source Sans 3', 'Source Sans Pro', sans-serif");
  const { width, height } = drawn.getBoundingClientRect();
  copy.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const drawing = new XMLSerializer().serializeToString(copy);
  const text = inLight(() => drawing.replace(/var\((--[\w-]+)\)/g, (_, name: string) => token(name)));
  return { text, width, height };
}

async function picture(frame: HTMLElement): Promise<Blob> {
  const figure = standalone(frame);
  if (!figure) throw new Error("There is no figure yet.");
  const image = new Image();
  const address = URL.createObjectURL(new Blob([figure.text], { type: "image/svg+xml" }));
  try {
    image.src = address;
    await image.decode();
  } finally {
    URL.revokeObjectURL(address);
  }
  const canvas = document.createElement("canvas");
  canvas.width = figure.width * SCALE;
  canvas.height = figure.height * SCALE;
  const context = canvas.getContext("2d")!;
  context.fillStyle = "white";
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((done, fail) =>
    canvas.toBlob(
      (blob) => (blob ? done(blob) : fail(new Error("The picture could not be made."))),
      "image/png",
    ),
  );
}

function save(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

export function FigureMenu({ frame }: { frame: RefObject<HTMLDivElement | null> }) {
  const { view } = useOpenRun();
  const title = view.run.title;
  const attempt = async (what: (frame: HTMLElement) => Promise<string>) => {
    try {
      toast.success(await what(frame.current!));
    } catch (error) {
      toast.error(error instanceof Error ? error.message : "The figure could not be exported.");
    }
  };
  const svg = (element: HTMLElement) => {
    const figure = standalone(element);
    if (!figure) throw new Error("There is no figure yet.");
    return new Blob([figure.text], { type: "image/svg+xml" });
  };
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look="text" className="text-sm">
          Export…
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-50 rounded-md border border-rule bg-chalk p-1 shadow-lg"
          aria-label="Export the figure"
        >
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              attempt(async (element) => {
                await navigator.clipboard.write([new ClipboardItem({ "image/png": picture(element) })]);
                return "Figure copied.";
              })
            }
          >
            Copy as a picture
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              attempt(async (element) => {
                save(svg(element), `${title}.svg`);
                return "SVG downloaded.";
              })
            }
          >
            Download SVG
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              attempt(async (element) => {
                save(await picture(element), `${title}.png`);
                return "PNG downloaded.";
              })
            }
          >
            Download PNG
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
