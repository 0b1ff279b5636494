import { useState } from "react";
import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { Table } from "../../ui/Table";

const ORDER = ["accepts", "rewrap only", "needs an encode", "not known yet", "cannot"];
const MARKS: Record<string, string> = {
  accepts: "●",
  "rewrap only": "◐",
  "needs an encode": "○",
  "not known yet": "?",
  cannot: "×",
};

export function Fits({ fits }: { fits: Schemas["FitOut"][] }) {
  const [by, setBy] = useState<"answer" | "recipient">("answer");
  const rows = [...fits].sort(
    (a, b) =>
      (by === "answer" ? ORDER.indexOf(a.answer) - ORDER.indexOf(b.answer) : 0) ||
      a.recipient.localeCompare(b.recipient),
  );
  const head = (key: typeof by, text: string) => (
    <th aria-sort={by === key ? "ascending" : "none"}>
      <button className={by === key ? "underline" : "hover:underline"} onClick={() => setBy(key)}>
        {text}
      </button>
    </th>
  );
  return (
    <section aria-label="Who would take it as it is" className="mt-3">
      <h2 className="font-semibold">Who would take it as it is</h2>
      <Table>
        <thead>
          <tr className="muted">
            {head("recipient", "recipient")}
            {head("answer", "answer")}
            <th>why</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((f) => (
            <tr key={f.spec}>
              <td>
                <Link className="hover:underline" to={`/specs/${f.spec}`}>
                  {f.recipient}
                </Link>
                <div className="muted">{f.title}</div>
              </td>
              <td className="font-semibold whitespace-nowrap">
                <span aria-hidden>{MARKS[f.answer]} </span>
                {f.answer}
              </td>
              <td>{f.why}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}
