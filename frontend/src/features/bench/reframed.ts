import type { Schemas } from "../../api/client";

/** A range of a master that is framed otherwise than the rest of it, both ends within. */
export type Reframed = Schemas["ReframedOut"];

/** Writes ranges as they are chosen: "FIRST-LAST: REGION, FRAMING", with semicolons between. */
export const write = (ranges: readonly Reframed[]): string =>
  [...ranges]
    .sort((a, b) => a.first - b.first)
    .map(({ first, last, region, framing }) => {
      const how = [region, framing].filter(Boolean).join(", ");
      return `${first}-${last}: ${how}`.trimEnd();
    })
    .join("; ");

const ENDS = /(?:^|;)\s*(\d+)-(\d+):/g;

/** Finds the range of a chosen text that a frame lies in, by its ends. */
export function endsAt(text: string, frame: number): [number, number] | null {
  for (const [, first, last] of text.matchAll(ENDS))
    if (frame >= Number(first) && frame <= Number(last)) return [Number(first), Number(last)];
  return null;
}

/** Takes a range out of what others hold, so that none overlap. */
export function without(ranges: readonly Reframed[], first: number, last: number): Reframed[] {
  return ranges.flatMap((one) => [
    ...(one.first < first ? [{ ...one, last: Math.min(one.last, first - 1) }] : []),
    ...(one.last > last ? [{ ...one, first: Math.max(one.first, last + 1) }] : []),
  ]);
}

/** Frames a range in a way of its own; what others held of it is theirs no more. */
export const withRange = (ranges: readonly Reframed[], next: Reframed): Reframed[] => [
  ...without(ranges, next.first, next.last),
  next,
];
