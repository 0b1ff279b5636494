/** Bytes in decimal units: MB is 10^6. */
export function bytes(n: number): string {
  for (const [unit, size] of [
    ["GB", 1e9],
    ["MB", 1e6],
    ["kB", 1e3],
  ] as const)
    if (n >= size) return `${(n / size).toFixed(2)} ${unit}`;
  return `${n} B`;
}

/** A bit rate in decimal units, as rates are written. */
export function bitRate(n: number): string {
  return n >= 1e6 ? `${Number((n / 1e6).toFixed(2))} Mb/s` : `${Math.round(n / 1e3)} kb/s`;
}

/** A span of time in words a person reads at a glance. */
export function span(seconds: number): string {
  const s = Math.abs(Math.round(seconds));
  if (s < 60) return `${s} s`;
  if (s < 3600) return `${Math.floor(s / 60)} min ${String(s % 60).padStart(2, "0")} s`;
  if (s < 86400 * 2)
    return `${Math.floor(s / 3600)} h ${String(Math.floor((s % 3600) / 60)).padStart(2, "0")} min`;
  return `${Math.floor(s / 86400)} d ${Math.floor((s % 86400) / 3600)} h`;
}

/** How long something runs, to a hundredth of a second. */
export function length(seconds: number): string {
  const hundredths = Math.round(seconds * 100);
  const rest = `${((hundredths % 6000) / 100).toFixed(2)} s`;
  const minutes = Math.floor(hundredths / 6000);
  if (minutes === 0) return rest;
  if (minutes < 60) return `${minutes} min ${rest.padStart(7, "0")}`;
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min ${rest.padStart(7, "0")}`;
}

export function clock(when: string | Date): string {
  const d = new Date(when);
  const time = d.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  const day =
    d.toDateString() === new Date().toDateString()
      ? ""
      : `${d.toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short" })}, `;
  return `${day}${time}`;
}

/** Frames a second of a rate written as a fraction. */
export function fps(rate: string | null): number {
  const [a, b] = (rate ?? "25/1").split("/").map(Number);
  return (a ?? 25) / (b || 1);
}

/**
 * The label of a frame for the screen, hh:mm:ss:ff, or hh:mm:ss;ff with drop-frame; labels are read
 * by the server alone.
 */
export function timecode(frame: number, rate: string | null, start = 0, drop = false): string {
  const count = Math.max(1, Math.round(fps(rate)));
  const two = (n: number) => String(n).padStart(2, "0");
  let n = frame + start;
  if (drop) {
    const out = Math.round(count / 15);
    const ten = count * 600 - 9 * out;
    const rest = n % ten;
    n += 9 * out * Math.floor(n / ten);
    if (rest >= count * 60) n += out * (Math.floor((rest - count * 60) / (count * 60 - out)) + 1);
  }
  const s = Math.floor(n / count);
  const minutes = `${two(Math.floor(s / 3600) % 24)}:${two(Math.floor(s / 60) % 60)}`;
  return `${minutes}:${two(s % 60)}${drop ? ";" : ":"}${two(n % count)}`;
}
