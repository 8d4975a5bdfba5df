/* What a person brought: a text, or files; and files as the server takes them. */
import type { OpenRun, SourceFile } from "../api/schema";

export interface Source {
  text: string;
  files: SourceFile[];
  origin: OpenRun["origin"];
  /** Stands for the whole in keys: megabytes make a poor one. */
  number: number;
}

export const NO_SOURCE: Source = { text: "", files: [], origin: "pasted table", number: 0 };

export function isEmpty(source: Source): boolean {
  return source.text === "" && source.files.length === 0;
}

const MOST = 32_000_000;

/** Files read for sending; a sentence where they are too large to be readings. */
export async function readFiles(files: readonly File[]): Promise<SourceFile[] | string> {
  const size = files.reduce((sum, file) => sum + file.size, 0);
  if (size > MOST) {
    return `These files hold ${(size / 1e6).toFixed(1)} MB; Dosis takes up to ${MOST / 1e6} MB in one run. Choose fewer, or leave out what is not needed.`;
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
