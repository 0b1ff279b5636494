/** What can stand before a programme, in the order in which it usually does. */
export const KINDS = ["bars", "slate", "black"] as const;
export type Seconds = Record<(typeof KINDS)[number], string>;

/** Take a leader as it is chosen, "bars 60 s, slate 10 s", apart. */
export function read(text: string): Seconds {
  const found = { bars: "", slate: "", black: "" };
  for (const kind of KINDS) found[kind] = new RegExp(`${kind} ([\\d.]+) s`).exec(text)?.[1] ?? "";
  return found;
}

/** Put it together again; what stands for no time is left out. */
export function written(seconds: Seconds): string {
  return KINDS.filter((kind) => Number(seconds[kind]) > 0)
    .map((kind) => `${kind} ${Number(seconds[kind])} s`)
    .join(", ");
}
