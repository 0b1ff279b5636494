import type { Range } from "./Grips";

/** A part between two frames, both included, whichever comes first. */
export const between = (a: number, b: number): Range => ({
  first: Math.min(a, b),
  frames: Math.abs(a - b) + 1,
});

const end = (one: Range) => one.first + one.frames;

/** Whether a part lies wholly within a range. */
export const lies = (one: Range, within: Range) =>
  one.first >= within.first && end(one) <= end(within);

/** A range that holds some parts, and what of it lies in none of them, in order. */
export function joined(parts: readonly Range[]): Range & { left_out: Range[] } {
  const ordered = [...parts].sort((a, b) => a.first - b.first);
  const left_out: Range[] = [];
  const start = ordered[0]?.first ?? 0;
  let reached = start;
  for (const one of ordered) {
    if (one.first > reached) left_out.push({ first: reached, frames: one.first - reached });
    reached = Math.max(reached, end(one));
  }
  return { first: start, frames: reached - start, left_out };
}
