type At = { bit_rate: number };

/** The place of the rate that is nearest to another, by ratio; of none the first. */
export function nearest(points: readonly At[], rate: number): number {
  const away = (p: At) => Math.abs(Math.log(p.bit_rate / rate));
  return points.reduce((best, p, n) => (away(p) < away(points[best] ?? p) ? n : best), 0);
}

/** How far along a line of rates one lies, from 0 to 1: twice the rate is as far everywhere. */
export function along(points: readonly At[], rate: number): number {
  const first = points[0]?.bit_rate ?? rate;
  const last = points.at(-1)?.bit_rate ?? rate;
  const whole = Math.log(last / first);
  return whole > 0 ? Math.min(1, Math.max(0, Math.log(rate / first) / whole)) : 0;
}

/** Whether a rate lies on a line of rates. */
export function within(points: readonly At[], rate: number): boolean {
  const first = points[0]?.bit_rate ?? Infinity;
  return first <= rate && rate <= (points.at(-1)?.bit_rate ?? 0);
}
