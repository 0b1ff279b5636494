import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { groupsOf, linesOf } from "./requirements";
import { fits, said } from "./look";

type Row = Schemas["LedgerRow"];

const row = (property: string, matters: Row["matters"], more: Partial<Row> = {}) =>
  ({ property, matters, label: property, group: "picture", part: "", source: "", ...more }) as Row;
const item = (id: number, ...rows: Row[]) => ({ id, rows }) as Schemas["DeliverableOut"];

test("ledgers are joined by requirement, and the gravest of all items counts", () => {
  const lines = linesOf([
    item(1, row("size", ""), row("rate", "choice")),
    item(2, row("size", "breaks"), row("rate", ""), row("codec@2", "")),
  ]);
  expect(lines.map((l) => [l.label, l.matters, [...l.cells.keys()]])).toEqual([
    ["size", "breaks", [1, 2]],
    ["rate", "choice", [1, 2]],
    ["codec@2, track 2", "", [2]],
  ]);
});

test("the same property asked twice has a row each", () => {
  const asked = [row("rate", "", { sentence: "at most 8" }), row("rate", "", { sentence: "25" })];
  expect(linesOf([item(1, ...asked)])).toHaveLength(2);
});

test("what is folded is counted by group", () => {
  expect(groupsOf([{ group: "picture" }, { group: "sound" }, { group: "picture" }])).toBe(
    "picture 2, sound 1",
  );
});

test("what is to be looked at is said and filtered", () => {
  const none: Schemas["ConcernsOut"] = {
    breaks: 0,
    stops: 0,
    choices: 0,
    cautions: 0,
    advice: 0,
    unproven: 0,
    worst: "meets",
    rank: 6,
  };
  const strip = (concerns: object, breaks = 0) =>
    ({ concerns, breaks }) as unknown as Schemas["StripOut"];
  expect(said(strip(none))).toBe("meets all");
  expect(said(strip({ ...none, worst: "unproven" }))).toBe("nothing so far");
  const some = { ...none, breaks: 2, cautions: 1, choices: 1 };
  expect(said(strip(some, 2))).toBe("2 requirements broken, 1 choice needed, 1 caution");
  // Nothing is made yet.
  expect(said(strip({ ...none, breaks: 1 }))).toBe("1 requirement would break");
  expect(fits("breaks", some)).toBe(true);
  expect(fits("cannot be made", some)).toBe(false);
  expect(fits("needs a choice", some)).toBe(true);
  expect(fits("all", none)).toBe(true);
});
