/* What a person brought: a text, files, or one large file; and files as the server takes them. */
import type { OpenRun, SourceFile } from "../api/schema";

export interface Source {
  text: string;
  files: SourceFile[];
  /** One that was sent in pieces, in place of the others. */
  file: { id: number; name: string } | null;
  origin: OpenRun["origin"];
  /** Stands for the whole in keys: megabytes make a poor one. */
  number: number;
}

export const NO_SOURCE: Source = { text: "", files: [], file: null, origin: "pasted table", number: 0 };

export function isEmpty(source: Source): boolean {
  return source.text === "" && source.files.length === 0 && source.file === null;
}

const MOST = 32_000_000;
const OF_ARRAYS = /\.(npy|parquet)$/i;

/** Whether a file goes to the server in pieces, and is read there a part at a time. */
export function isLarge(file: File): boolean {
  return file.size > MOST || OF_ARRAYS.test(file.name);
}

/** Files read for sending; a sentence where they are too large to be readings. */
export async function readFiles(files: readonly File[]): Promise<SourceFile[] | string> {
  const size = files.reduce((sum, file) => sum + file.size, 0);
  if (size > MOST || (files.length > 1 && files.some(isLarge))) {
    return `These files hold ${(size / 1e6).toFixed(1)} MB; Dosis takes several files of up to ${MOST / 1e6} MB together. A larger one is brought in by itself.`;
  }
  return Promise.all(
    files.map(async (file) => ({ name: file.name.slice(0, 200), data: base64(await file.arrayBuffer()) })),
  );
}

function base64(buffer: ArrayBuffer): string {
  const bytes = new Uint8Array(buffer);
  let text = "";
  for (let i = 0; i < bytes.length; i += 32_768) {
    text += String.fromCharCode(...bytes.subarray(i, i + 32_768));
  }
  return btoa(text);
}
