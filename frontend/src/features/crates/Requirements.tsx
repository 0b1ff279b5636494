import { useState } from "react";
import type { Schemas } from "../../api/client";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { groupsOf, MATTERS, type Line, linesOf } from "./requirements";

type Deliverable = Schemas["DeliverableOut"];

/** The ledger of many items: a row for each requirement, a column for each item. */
export function Requirements({
  items,
  at,
  choose,
}: {
  items: Deliverable[];
  at?: number;
  choose: (id: number) => void;
}) {
  const [all, setAll] = useState(false);
  const lines = linesOf(items);
  const first = lines.filter((l) => l.matters !== "");
  const rest = lines.filter((l) => l.matters === "");
  return (
    <div
      className="mb-3 max-h-[32rem] overflow-auto border border-base-300"
      role="region"
      aria-label="Requirements by item"
    >
      <table className="rows w-full" aria-label="Requirements by item">
        <thead>
          <tr>
            <th className="sticky left-0 z-10 bg-base-100">requirement</th>
            <th>asked</th>
            {items.map((d) => (
              <th key={d.id} className="max-w-36 min-w-28 break-all">
                <button
                  className={d.id === at ? "text-left underline" : "text-left hover:underline"}
                  onClick={() => choose(d.id)}
                >
                  {d.item}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[...first].sort(worse).map((l) => (
            <Row key={l.key} line={l} items={items} />
          ))}
          {all && rest.map((l) => <Row key={l.key} line={l} items={items} />)}
        </tbody>
      </table>
      {rest.length > 0 && (
        <p className="p-2">
          {all ? "All requirements are shown." : `Of all items alike: ${groupsOf(rest)}.`}{" "}
          <button className="underline" onClick={() => setAll(!all)}>
            {all ? "Show what matters" : "Show all requirements"}
          </button>
        </p>
      )}
    </div>
  );
}

const worse = (a: Line, b: Line) => MATTERS.indexOf(a.matters) - MATTERS.indexOf(b.matters);

function Row({ line, items }: { line: Line; items: Deliverable[] }) {
  return (
    <tr data-property={line.property}>
      <th scope="row" className="sticky left-0 bg-base-100">
        {line.label} <span className="muted text-xs font-normal">{line.group}</span>
        {line.part && <div className="muted text-xs">{line.part}</div>}
      </th>
      <td className="figure">{line.asked}</td>
      {items.map((d) => (
        <Cell key={d.id} row={line.cells.get(d.id)} />
      ))}
    </tr>
  );
}

function Cell({ row }: { row: Schemas["LedgerRow"] | undefined }) {
  if (!row) return <td className="muted">not asked</td>;
  const stage = row.file ?? row.route;
  const verdict = row.file ? row.verdict : row.route?.verdict;
  const bad = verdict && verdict !== "meets" && (row.file || verdict !== "unproven");
  return (
    <td className={row.matters === "" ? "muted" : ""} title={row.why || row.sentence}>
      {bad && <VerdictBadge small verdict={verdict} />}{" "}
      <span className="figure break-words">{stage?.found || "-"}</span>
      {row.matters === "caution" && <div className="text-xs">caution</div>}
    </td>
  );
}
