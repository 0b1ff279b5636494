/** What is tried of a codec, as the command line writes it: CODEC[:SETTING=VALUE]... */
export type Try = { codec: string; rate: string; passes: number; more: string };

const RATE = "bit_rate=";
const PASSES = "passes=";
// A colon stands between settings, and within values such as 16:9.
const BETWEEN = /:(?=[a-z][a-z_.]*=)/;

/** Reads it; settings that have no field of their own are kept as they are. */
export function read(text: string): Try {
  const [codec = "", ...settings] = text.split(BETWEEN);
  const value = (name: string) => settings.find((s) => s.startsWith(name))?.slice(name.length);
  const more = settings.filter((s) => !s.startsWith(RATE) && !s.startsWith(PASSES));
  return {
    codec: codec.trim(),
    rate: value(RATE) ?? "",
    passes: Number(value(PASSES) ?? 1),
    more: more.join(":"),
  };
}

/** Writes it. */
export function write({ codec, rate, passes, more }: Try): string {
  const settings = [
    rate.trim() && `${RATE}${rate.trim()}`,
    passes > 1 && `${PASSES}${passes}`,
    more,
  ];
  return [codec, ...settings.filter(Boolean)].join(":");
}

export type Piece = { first: number; frames: number };

/** Some parts of so many frames, spread evenly over a film; none where that would be all of it. */
export function spread(frames: number, each: number, parts: number): Piece[] {
  if (frames <= each * parts * 2) return [];
  const step = frames / parts;
  return Array.from({ length: parts }, (_, n) => ({
    first: Math.round(n * step + (step - each) / 2),
    frames: each,
  }));
}
