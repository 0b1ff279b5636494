import { ApiError, type Schemas } from "../../api/client";

export type Trying = { share: number; stage: string };

/**
 * Sends a file to be tried and not kept; gives what was found, or throws what went wrong. Ends
 * when the signal says so.
 */
export async function tryFile(
  file: File,
  query: { spec?: string; version?: number },
  tell: (now: Trying) => void,
  signal: AbortSignal,
): Promise<Schemas["Trial"]> {
  const address = new URLSearchParams({ name: file.name });
  if (query.spec) address.set("spec", query.spec);
  if (query.version) address.set("version", String(query.version));
  tell({ share: 0, stage: "sending" });
  let answer: Response;
  try {
    answer = await fetch(`/api/trials?${address}`, {
      method: "POST",
      body: file,
      signal,
      headers: { "Content-Type": "application/octet-stream" },
    });
  } catch (e) {
    if (signal.aborted) throw e;
    throw new ApiError(
      "The file did not arrive.",
      "Check the line to the server, then choose it again.",
    );
  }
  if (!answer.ok || !answer.body) {
    const said = (await answer.json().catch(() => ({}))) as { detail?: string; way_out?: string };
    throw new ApiError(
      said.detail ?? `The server answered ${answer.status}.`,
      said.way_out ?? "Try again.",
    );
  }
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let text = "";
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    text += value;
    const lines = text.split("\n");
    text = lines.pop() ?? "";
    for (const line of lines.filter(Boolean)) {
      const said = JSON.parse(line) as {
        progress?: Schemas["Progress"];
        trial?: Schemas["Trial"];
        problem?: { what: string; way_out: string };
      };
      if (said.progress) tell({ share: said.progress.share, stage: "measuring" });
      if (said.problem) throw new ApiError(said.problem.what, said.problem.way_out);
      if (said.trial) return said.trial;
    }
  }
  throw new ApiError("The server stopped before it was done.", "Choose the file again.");
}
