import createClient from "openapi-fetch";
import { useSyncExternalStore } from "react";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export const api = createClient<paths>({ baseUrl: "/" });

/**
 * An error as the server tells it: what happened, and what to do. One that passes by itself is
 * waited out.
 */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly wayOut: string,
    readonly passes = false,
  ) {
    super(message);
  }
}

const PASSING = new Set([502, 503, 504]);
const watchers = new Set<() => void>();
let away = "";

function note(what: string) {
  if (what === away) return;
  away = what;
  watchers.forEach((w) => w());
}

/** What the page waits for at the moment; nothing where all is well. */
export const useAway = () =>
  useSyncExternalStore(
    (w) => {
      watchers.add(w);
      return () => watchers.delete(w);
    },
    () => away,
  );

/** Whether a question is asked again: for ever where the trouble passes by itself, else once. */
export const asksAgain = (times: number, error: Error) =>
  (error instanceof ApiError && error.passes) || times < 1;

/** Gives the data of an answer, or throws what the server said. */
export async function unwrap<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    note("The server does not answer.");
    throw new ApiError(
      "The server does not answer.",
      "Check that it runs; what you see is kept.",
      true,
    );
  }
  const passes = PASSING.has(got.response.status);
  const said = got.error as { detail?: string; way_out?: string } | undefined;
  note(passes ? (said?.detail ?? "The server is busy.") : "");
  if (got.data !== undefined && got.response.ok) return got.data;
  throw new ApiError(
    said?.detail ?? `The server answered ${got.response.status}.`,
    said?.way_out ?? "Try again.",
    passes,
  );
}
