/** How much of each channel taken goes into each one made: rows of dB, null for nothing. */
export type Gains = (number | null)[][];

/** A gain as it is written: a blank is nothing of it. */
export const written = (gain: number | null) =>
  gain === null ? "" : (Math.round(gain * 100) / 100 + 0).toString();

/** Reads what was written: null for a blank, undefined for what is no gain. */
export function readGain(text: string): number | null | undefined {
  const plain = text.trim().replace("\u2212", "-");
  if (!plain) return null;
  const figure = Number(plain);
  return Number.isFinite(figure) ? figure : undefined;
}

/** Writes a mix as the server reads it: "FL = FL, FC -3; FR = FR, FC -3". */
export function mixOf(taken: string[], made: string[], gains: Gains): string {
  return made
    .map((name, row) => {
      const terms = taken.flatMap((one, column) => {
        const gain = gains[row]?.[column] ?? null;
        if (gain === null) return [];
        const figure = written(gain);
        return figure === "0" ? [one] : [`${one} ${figure}`];
      });
      return `${name} = ${terms.join(", ")}`.trim();
    })
    .join("; ");
}

/** The same gains with another one. */
export const withGain = (gains: Gains, row: number, column: number, gain: number | null): Gains =>
  gains.map((line, r) => line.map((g, c) => (r === row && c === column ? gain : g)));
