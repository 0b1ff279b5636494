import type { Schemas } from "../../api/client";

type Concerns = Schemas["ConcernsOut"];

export const LOOKS = ["all", "breaks", "cannot be made", "needs a choice", "cautions"] as const;
export type Look = (typeof LOOKS)[number];

const COUNTS: Record<Exclude<Look, "all">, keyof Concerns> = {
  breaks: "breaks",
  "cannot be made": "stops",
  "needs a choice": "choices",
  cautions: "cautions",
};

/** Whether an item is among those that are looked at. */
export const fits = (look: Look, concerns: Concerns) =>
  look === "all" || Number(concerns[COUNTS[look]]) > 0;

const counted = (n: number, one: string, many = `${one}s`) =>
  n ? `${n} ${n > 1 ? many : one}` : "";

/** What is to be looked at of an item, in words. */
export function said({ concerns, breaks }: Schemas["StripOut"]): string {
  const parts = [
    breaks
      ? counted(concerns.breaks, "requirement broken", "requirements broken")
      : counted(concerns.breaks, "requirement would break", "requirements would break"),
    concerns.stops ? "cannot be made" : "",
    counted(concerns.choices, "choice needed", "choices needed"),
    counted(concerns.cautions, "caution"),
    counted(concerns.advice, "advice", "advice"),
  ].filter(Boolean);
  if (parts.length) return parts.join(", ");
  return concerns.worst === "meets" ? "meets all" : "nothing so far";
}
