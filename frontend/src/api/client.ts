/* Talking to the server: typed by its OpenAPI document, errors as its problem documents. */
import createClient from "openapi-fetch";
import type { Problem, paths } from "./schema";

export const api = createClient<paths>();

// What a page of a session sends with each change, so that no other site can: told by the server when it is asked who is signed in.
let pageKey = "";

export function setPageKey(key: string) {
  pageKey = key;
}

/** The headers of a request that is not made through `api`. */
export function pageHeaders(): Record<string, string> {
  return pageKey ? { "X-Dosis-Page": pageKey } : {};
}

api.use({
  onRequest({ request }) {
    for (const [name, value] of Object.entries(pageHeaders())) request.headers.set(name, value);
  },
});

/** Heard by the gate: the session has ended while a page was open. */
export const SIGNED_OUT = "dosis:signed-out";

/** What went wrong, in words for people. `kind` "offline" stands for no answer at all. */
export class ProblemError extends Error {
  constructor(readonly problem: Pick<Problem, "kind" | "title" | "detail"> & Partial<Problem>) {
    super(problem.title);
  }

  /** Whether the same request may succeed a little later, with nothing changed. */
  get passing(): boolean {
    return this.problem.kind === "offline" || this.problem.kind === "unavailable";
  }
}

const OFFLINE = {
  kind: "offline",
  title: "Dosis is not answering.",
  detail: "Is it still running where you started it? This page tries again by itself.",
};

/** The data of a response, or a thrown ProblemError. */
export async function answer<T>(
  request: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result: { data?: T; error?: unknown; response: Response };
  try {
    result = await request;
  } catch {
    throw new ProblemError(OFFLINE);
  }
  if (result.response.ok) return result.data as T;
  const problem = result.error as Problem | undefined;
  if (problem?.kind === "signed_out") window.dispatchEvent(new Event(SIGNED_OUT));
  throw new ProblemError(problem?.title ? problem : OFFLINE);
}

export function problemOf(error: unknown): ProblemError["problem"] {
  if (error instanceof ProblemError) return error.problem;
  return { kind: "page", title: "This page made a mistake.", detail: String(error) };
}
