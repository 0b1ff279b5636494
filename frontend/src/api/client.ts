import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export const api = createClient<paths>({ baseUrl: "/" });

/** An error as the server tells it: what happened, and what to do. */
export class Trouble extends Error {
  constructor(message: string, readonly wayOut: string) {
    super(message);
  }
}

/** Gives the data of an answer, or throws what the server said. */
export async function take<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw new Trouble("The server does not answer.", "Check that it runs; what you see is kept.");
  }
  if (got.data !== undefined && got.response.ok) return got.data;
  const said = got.error as { detail?: string; way_out?: string } | undefined;
  throw new Trouble(said?.detail ?? `The server answered ${got.response.status}.`, said?.way_out ?? "Try again.");
}
