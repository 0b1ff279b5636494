/** How much of the day the time line shows, in minutes, by its name. */
export const WINDOWS = { "10 min": 10, "2 h": 120, "8 h": 480, "24 h": 1440 } as const;
export type WindowName = keyof typeof WINDOWS;
export const NAMES = Object.keys(WINDOWS) as WindowName[];
/** The share of the line that lies before now. */
const BEFORE = 0.25;
const MINUTE = 60e3;
/** Minutes between marks, the finest first. */
const STEPS = [1, 2, 5, 10, 15, 30, 60, 120, 180, 240];
const MOST_MARKS = 10;

export type Span = { from: number; to: number };

/** The part of time that is shown around now, in milliseconds. */
export function spanOf(name: WindowName, now: number): Span {
  const length = WINDOWS[name] * MINUTE;
  return { from: now - length * BEFORE, to: now + length * (1 - BEFORE) };
}

/** The smallest window in which the last of some times lies. */
export function fitting(ends: number[], now: number): WindowName {
  const last = Math.max(now, ...ends);
  return NAMES.find((name) => spanOf(name, now).to >= last) ?? "24 h";
}

/** Where a time lies, in percent from the left; outside it is at an end. */
export const place = (at: number, { from, to }: Span) =>
  Math.min(100, Math.max(0, ((at - from) / (to - from)) * 100));

/** Where what begins and ends lies; null where none of it is shown. */
export function barOf(begins: number, ends: number, shown: Span) {
  if (ends < shown.from || begins > shown.to) return null;
  const left = place(begins, shown);
  return { left, width: place(ends, shown) - left };
}

/** The round times that are marked, by the reader's clock. */
export function marks({ from, to }: Span): number[] {
  const minutes = (to - from) / MINUTE;
  const step = (STEPS.find((s) => minutes / s <= MOST_MARKS) ?? 240) * MINUTE;
  const zone = new Date(from).getTimezoneOffset() * MINUTE;
  const first = Math.ceil((from - zone) / step) * step + zone;
  const found = [];
  for (let at = first; at <= to; at += step) found.push(at);
  return found;
}
