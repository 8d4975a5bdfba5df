/* Sending a large file in pieces, so that it can be watched, stopped, and gone on with after the connection was lost. */
import { answer, api, ProblemError, pageHeaders } from "../api/client";
import { newKey } from "../api/key";
import type { FileState } from "../api/schema";

const TRIES = 5;
const PAUSE_MS = 1000; // before a piece is sent again

/** The file as it is kept; `onShare` is told what share of it is there. Throws what `signal` was aborted with. */
export async function send(
  file: File,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<FileState> {
  const body = { key: newKey(), name: file.name.slice(0, 200), size: file.size };
  const begun = await answer(api.POST("/api/files", { body, signal }));
  try {
    for (let number = 0; number < begun.pieces; number++) {
      await sendPiece(begun, number, file, signal);
      onShare((number + 1) / begun.pieces);
    }
  } catch (error) {
    remove(begun.id);
    throw error;
  }
  return begun;
}

/** Forget a file of which no run was made; whether that succeeds is not waited for. */
export function remove(id: number) {
  api.DELETE("/api/files/{id}", { params: { path: { id } } }).catch(() => undefined);
}

async function sendPiece(of: FileState, number: number, file: File, signal: AbortSignal) {
  const size = of.piece ?? 0;
  const piece = file.slice(number * size, (number + 1) * size);
  for (let tried = 1; ; tried++) {
    try {
      const sent = fetch(`/api/files/${of.id}/pieces/${number}`, {
        method: "PUT",
        body: piece,
        headers: { "Content-Type": "application/octet-stream", ...pageHeaders() },
        signal,
      });
      await answer(sent.then(read));
      return;
    } catch (error) {
      signal.throwIfAborted();
      if (tried === TRIES || !(error instanceof ProblemError && error.passing)) throw error;
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    }
  }
}

async function read(response: Response): Promise<{ error?: unknown; response: Response }> {
  return response.ok ? { response } : { error: await response.json().catch(() => undefined), response };
}
