/* The figure as a file or on the clipboard: with the look the run has, or with one that is sent along. */
import { ProblemError } from "../api/client";
import type { FigureLook } from "../api/schema";

export function fileOf(run: number, kind: string): string {
  return `/api/runs/${run}/figure.${kind}`;
}

/** Fetch a file; what stands in its way is thrown in the server's words. */
async function fetched(address: string, look?: FigureLook): Promise<Blob> {
  let response: Response;
  try {
    response = await fetch(
      address,
      look && {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ look }),
      },
    );
  } catch {
    throw new ProblemError({
      kind: "offline",
      title: "Dosis is not answering.",
      detail: "Try again in a moment.",
    });
  }
  if (!response.ok) throw new ProblemError(await response.json());
  return response.blob();
}

export async function copied(address: string, look?: FigureLook): Promise<void> {
  // A promise keeps the click's permission while the picture is made.
  const picture = fetched(address, look);
  await Promise.all([picture, navigator.clipboard.write([new ClipboardItem({ "image/png": picture })])]);
}

export async function filed(address: string, name: string, look?: FigureLook): Promise<void> {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await fetched(address, look));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
