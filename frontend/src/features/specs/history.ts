import type { Doc } from "./document";

export type Past = { before: Doc[]; now: Doc; after: Doc[]; mark: string };
export type Step = { doc: Doc; mark?: string } | "undo" | "redo";

/** Steps on one field in a row are one step to undo. */
export function history(past: Past, step: Step): Past {
  const last = past.before[past.before.length - 1];
  if (step === "undo")
    return last
      ? { before: past.before.slice(0, -1), now: last, after: [past.now, ...past.after], mark: "" }
      : past;
  if (step === "redo")
    return past.after[0]
      ? {
          before: [...past.before, past.now],
          now: past.after[0],
          after: past.after.slice(1),
          mark: "",
        }
      : past;
  const joined = step.mark !== undefined && step.mark !== "" && step.mark === past.mark;
  return {
    before: joined ? past.before : [...past.before, past.now].slice(-200),
    now: step.doc,
    after: [],
    mark: step.mark ?? "",
  };
}
