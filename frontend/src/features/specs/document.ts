import type { Schemas } from "../../api/client";
import type { components } from "../../api/spec";

type Written = components["schemas"];

/** A spec's document as the editor holds it: plain data, read and judged by the server alone. */
export type Doc = Written["Spec"];
export type Row = Written["Requirement"];
export type Rule = Written["Rule"];
export type Ask = Written["Ask"];
export type Either = Written["Either"];
export type Alternative = Written["Alternative"];
export type Choice = Written["Choice"];
export type Coding = Written["Coding"];
export type Delivery = Written["Delivery"];
export type Playback = Written["Playback"];
export type Way = Playback["ways"][number];
export type Sidecar = Written["Sidecar"];
export type Scalar = Choice["value"];

export const OPERATORS = {
  is: "is",
  one_of: "is one of",
  at_least: "at least",
  at_most: "at most",
  between: "between",
  matches: "fits the pattern",
  present: "is stated",
  same_as: "is the same as",
} satisfies Partial<Record<keyof Rule, string>>;
export type Operator = keyof typeof OPERATORS;
const operators = Object.keys(OPERATORS) as Operator[];
export const operatorOf = (rule: Rule): Operator =>
  operators.find((o) => rule[o] !== undefined && rule[o] !== null) ?? "is";
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
