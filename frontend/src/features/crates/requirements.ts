import type { Schemas } from "../../api/client";

type Deliverable = Schemas["DeliverableOut"];
type Row = Schemas["LedgerRow"];
export type Matter = Row["matters"];

/** Why a row is looked at, the gravest first. */
export const MATTERS: Matter[] = [
  "breaks",
  "caution",
  "advice",
  "unproven",
  "choice",
  "change",
  "",
];

export type Line = {
  key: string;
  property: string;
  label: string;
  part: string;
  group: string;
  asked: string;
  /** The gravest of all items. */
  matters: Matter;
  cells: Map<number, Row>;
};

/** Joins the ledgers of items by requirement. */
export function linesOf(items: Deliverable[]): Line[] {
  const lines = new Map<string, Line>();
  for (const one of items)
    for (const row of one.rows) {
      const key = `${row.property} ${row.part} ${row.source} ${row.sentence}`;
      const line = lines.get(key) ?? {
        key,
        property: row.property,
        label: labelOf(row),
        part: row.part,
        group: row.group,
        asked: row.asked,
        matters: "" as Matter,
        cells: new Map<number, Row>(),
      };
      if (MATTERS.indexOf(row.matters) < MATTERS.indexOf(line.matters)) line.matters = row.matters;
      line.cells.set(one.id, row);
      lines.set(key, line);
    }
  return [...lines.values()];
}

/** What a requirement is about; of a track with its number. */
export const labelOf = (row: Row) =>
  row.property.includes("@") ? `${row.label}, track ${row.property.split("@")[1]}` : row.label;

/** How many rows of each group there are, in words. */
export function groupsOf(rows: { group: string }[]): string {
  const counts = new Map<string, number>();
  for (const row of rows) counts.set(row.group, (counts.get(row.group) ?? 0) + 1);
  return [...counts].map(([group, n]) => `${group} ${n}`).join(", ");
}
