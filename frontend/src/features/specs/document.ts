import type { Schemas } from "../../api/client";

/** A spec's document as the editor holds it: plain data, read and judged by the server alone. */
export type Scalar = string | number | boolean;
export type Rule = { [operator: string]: unknown };
export type Ask = { property: string; rule: Rule };
export type Row = Ask & {
  severity?: "must" | "should";
  when?: Ask | null;
  note?: string;
  source?: string;
};
export type Alternative = { name: string; rules: Record<string, Rule>; note?: string };
export type Either = {
  name: string;
  any: Alternative[];
  severity?: "must" | "should";
  note?: string;
  source?: string;
};
export type Choice = { value: Scalar; note?: string };
export type Delivery = {
  name?: string;
  asked?: "must" | "should" | null;
  fields?: Record<string, { matches: string; note?: string }>;
  characters?: string;
  case?: string;
  longest?: number;
  source?: string;
  sidecars?: { kind: string; form: string; note?: string }[];
  carrier?: string;
  address?: string;
};
export type Coding = {
  passes?: number;
  buffer_bits?: number | null;
  key_frame_every?: string;
  active_width?: number | null;
  framing?: string;
  without_sound?: string;
};
export type Doc = {
  id: string;
  version: number;
  recipient: string;
  title: string;
  status: string;
  valid_from?: string | null;
  source?: string;
  summary?: string;
  requirements: Row[];
  either?: Either[];
  house?: Record<string, Choice>;
  house_sets?: Record<string, { note?: string; choices: Record<string, Choice> }>;
  coding?: Coding;
  delivery?: Delivery;
};

export const OPERATORS: Record<string, string> = {
  is: "is",
  one_of: "is one of",
  at_least: "at least",
  at_most: "at most",
  between: "between",
  matches: "fits the pattern",
  present: "is stated",
  same_as: "is the same as",
};
export const operatorOf = (rule: Rule) =>
  Object.keys(OPERATORS).find((o) => rule[o] !== undefined && rule[o] !== null) ?? "is";
/** A property's name where its group does not stand above it: "sound codec". */
export const spoken = (p: Schemas["PropertyOut"]) =>
  ["picture", "sound"].includes(p.group) && !p.label.includes(p.group)
    ? `${p.group} ${p.label}`
    : p.label;
export const property = (key: string) => key.split("@")[0] ?? key;

/**
 * What is being written is kept in the browser until it is saved or left, so that a reload loses
 * nothing.
 */
export const keeping = (id?: string, version?: number) =>
  id === undefined ? "spec-being-written" : `spec-being-edited ${id} ${version ?? ""}`;
export const keep = (key: string, doc: Doc) => sessionStorage.setItem(key, JSON.stringify(doc));
export const kept = (key: string): Doc | null => {
  const text = sessionStorage.getItem(key);
  return text ? (JSON.parse(text) as Doc) : null;
};
export const forget = (key: string) => sessionStorage.removeItem(key);
export const empty = (): Doc => ({
  id: "",
  version: 1,
  recipient: "",
  title: "",
  status: "draft",
  requirements: [],
});

/** A requirement to begin with: the usual value where there is one. */
export function fresh(key: string, vocabulary: Schemas["Vocabulary"]): Row {
  const property = vocabulary.properties.find((p) => p.key === key);
  const start: Record<string, string> = {
    flag: "yes",
    rate: "25",
    size: "1920x1080",
    level: "4.1",
    bit_count: "1835008 bits",
  };
  const operator =
    property?.operators.includes("at_most") &&
    !["rate", "level"].includes(property.kind) &&
    !property.values.length &&
    property.kind !== "size"
      ? "at_most"
      : "is";
  return {
    property: key,
    rule: { [operator]: start[property?.kind ?? ""] ?? property?.values[0]?.value ?? "" },
    severity: "must",
    source: "",
  };
}
