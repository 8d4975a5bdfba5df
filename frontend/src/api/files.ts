/* Files of the server, saved or put on the clipboard; of a figure, with a look that is sent along. */
import { toast } from "sonner";
import { ProblemError, pageHeaders, problemOf } from "./client";
import type { FigureLook } from "./schema";

export function fileOf(run: number, kind: string): string {
  return `/api/runs/${run}/figure.${kind}`;
}

/** Fetch a file; what stands in its way is thrown in the server's words. */
export async function fetched(address: string, look?: FigureLook): Promise<Blob> {
  let response: Response;
  try {
    response = await fetch(
      address,
      look && {
        method: "POST",
        headers: { "Content-Type": "application/json", ...pageHeaders() },
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

/** Whether it was done; what stood in its way is told in the server's words. */
export async function attempted(what: Promise<unknown>, done?: string): Promise<boolean> {
  try {
    await what;
    if (done) toast.success(done);
    return true;
  } catch (error) {
    const problem = problemOf(error);
    toast.error(problem.detail || problem.title);
    return false;
  }
}
