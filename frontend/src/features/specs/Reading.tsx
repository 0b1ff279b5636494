import clsx from "clsx";
import { TriangleAlert } from "lucide-react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Grouped, Table } from "../../ui/Table";

export const GROUPS = ["picture", "motion", "sound", "file", "delivery"];
type Read = Schemas["Reading"];
type Requirement = Schemas["RequirementOut"];

/** The requirements of one alternative stand together under its name. */
function parts(rows: Requirement[]): [string, Requirement[]][] {
  return [
    ...new Map(
      rows.filter((r) => r.part).map((r) => [r.part, rows.filter((o) => o.part === r.part)]),
    ).entries(),
  ];
}

/**
 * The spec as its recipient's engineer would write it: sentences by group, each with its clause.
 */
export function Sentences({ reading }: { reading: Read }) {
  const plain = reading.rows.filter((r) => !r.part);
  const choices = new Map<string, [string, Requirement[]][]>();
  for (const [part, rows] of parts(reading.rows)) {
    const [choice = "", name = ""] = part.split(": ");
    choices.set(choice, [...(choices.get(choice) ?? []), [name, rows]]);
  }
  return (
    <div className="grid max-w-6xl gap-x-10 lg:grid-cols-2 print:block">
      {GROUPS.map((g) => {
        const inside = plain.filter((r) => r.group === g);
        const extra = g === "delivery" ? reading.delivery : [];
        return inside.length + extra.length ? (
          <section key={g} className="mb-4 break-inside-avoid">
            <h2 className="mb-1 border-b-2 border-accent font-semibold">{g}</h2>
            <ol className="list-decimal pl-6">
              {inside.map((r, n) => (
                <li key={n} className={`py-0.5 ${r.severity === "should" ? "italic" : ""}`}>
                  {r.sentence}{" "}
                  {r.house && (
                    <span className="not-italic">
                      This house takes {r.house}. {r.house_note}
                    </span>
                  )}{" "}
                  <Source of={r.source} />
                </li>
              ))}
              {extra.map((t) => (
                <li key={t} className="py-0.5">
                  {t}
                </li>
              ))}
            </ol>
          </section>
        ) : null;
      })}
      {[...choices.entries()].map(([choice, ways]) => (
        <section key={choice} className="mb-4 break-inside-avoid">
          <h2 className="mb-1 border-b-2 border-accent font-semibold">
            {choice}: one of these <Source of={ways[0]?.[1][0]?.source ?? ""} />
          </h2>
          {ways.map(([name, rows], n) => (
            <div key={name} className="mb-1">
              <p className="font-semibold">
                {n > 0 && <span className="muted font-normal">or </span>}
                {name}
              </p>
              <ul className="list-disc pl-6">
                {rows.map((r, m) => (
                  <li key={m}>
                    {r.sentence.replace(` (${r.part})`, "").replace(r.note, "").trim()}
                  </li>
                ))}
              </ul>
              {rows[0]?.note && <p className="muted pl-6">{rows[0].note}</p>}
            </div>
          ))}
        </section>
      ))}
      <section className="mb-4 break-inside-avoid">
        <h2 className="mb-1 border-b-2 border-accent font-semibold">how this house makes it</h2>
        <ul className="list-disc pl-6">
          {reading.coding.map((t) => (
            <li key={t}>{t}</li>
          ))}
          {reading.house_sets.map((s) => (
            <li key={s.name}>
              <b>{s.name}</b>: {s.choices.join("; ")} <span className="muted">{s.note}</span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

const Source = ({ of }: { of: string }) =>
  of ? <span className="muted whitespace-nowrap">[{of}]</span> : null;

export function AsTable({ reading }: { reading: Read }) {
  return (
    <Table columns={["property", "asked", "severity", "room", "source", "note"]}>
      <Grouped groups={GROUPS} of={(r) => r.group} rows={reading.rows} span={6}>
        {(r, n) => (
          <tr key={n}>
            <td>
              {r.label}
              {r.property.includes("@") && `, track ${r.property.split("@")[1]}`}
              {r.part && <div className="muted">{r.part}</div>}
            </td>
            <td className="figure">{r.asked}</td>
            <td>{r.severity}</td>
            <td>{r.choosable ? (r.house ? `house takes ${r.house}` : "yours to choose") : ""}</td>
            <td>{r.source}</td>
            <td>{r.note}</td>
          </tr>
        )}
      </Grouped>
    </Table>
  );
}

/**
 * What contradicts itself, with its clauses and the way out; a repair can be taken where one is
 * made by itself.
 */
export function Contradictions({
  found,
  take,
}: {
  found: Schemas["ContradictionOut"][];
  take?: (changes: Schemas["RepairOut"]["changes"]) => void;
}) {
  return (
    <ul aria-label="Contradictions" className="flex flex-col gap-2">
      {found.map((c, n) => (
        <li
          key={n}
          className={clsx(
            "border-l-4 bg-base-200 px-2 py-1",
            c.grade === "contradiction" ? "border-error" : "border-warning",
          )}
        >
          <p>
            <TriangleAlert size={14} className="mr-1 inline" aria-hidden />
            <b>
              {c.grade === "doubt" ? "Doubtful: " : "Cannot be met: "}
              {c.what}
            </b>{" "}
            {c.why}
          </p>
          <ul className="muted list-disc pl-5">
            {c.clauses.map((t) => (
              <li key={t}>{t}</li>
            ))}
          </ul>
          <p>
            {c.repair.says}{" "}
            {take && Object.keys(c.repair.changes).length > 0 && (
              <Button tone="secondary" className="ml-1" onClick={() => take(c.repair.changes)}>
                Do so
              </Button>
            )}
          </p>
        </li>
      ))}
    </ul>
  );
}
