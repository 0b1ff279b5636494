import { useState } from "react";
import type { Schemas } from "../../api/client";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { span } from "../../ui/format";
import { FileDrop } from "./FileDrop";
import { GROUPS } from "./Reading";
import { Grouped, Table } from "../../ui/Table";

/** Any file held against a spec; nothing is kept. */
export function TryFile({ spec, version }: { spec: string; version: number }) {
  const [looked, setLooked] = useState<Schemas["Trial"] | null>(null);
  const [all, setAll] = useState(false);
  const rows = (looked?.findings ?? []).filter((f) => all || f.verdict !== "meets");
  return (
    <section aria-label="Try a file" className="mb-4 border border-base-300 bg-base-200/50 p-3">
      <h2 className="mb-2 font-semibold">Try a file</h2>
      <FileDrop
        label="Drop a file here, or choose one: it is measured, judged and forgotten."
        spec={spec}
        version={version}
        found={setLooked}
      />
      {looked?.verdict && (
        <>
          <p className="mt-3 mb-1 flex flex-wrap items-center gap-3">
            <VerdictBadge verdict={looked.verdict} /> <b className="break-all">{looked.name}</b>
            <span className="muted">
              {count(looked.findings)}, measured in {span(looked.seconds)}. There is no master to
              compare with: what asks for the master's value stays unproven.
            </span>
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={all}
                onChange={(e) => setAll(e.target.checked)}
              />{" "}
              show what meets too
            </label>
          </p>
          {looked.notes.map((n) => (
            <p key={n} className="border-l-4 border-warning pl-2">
              {n}
            </p>
          ))}
          {rows.length > 0 && (
            <Table
              columns={["property", "asked", "file has", "verdict", "why"]}
              label="Ledger of the file tried"
            >
              <Grouped groups={GROUPS} of={(r) => r.group} rows={rows} span={5}>
                {(f, n) => (
                  <tr key={n}>
                    <td>
                      {f.label}
                      {f.part && <div className="muted">{f.part}</div>}
                    </td>
                    <td className="figure">{f.asked}</td>
                    <td className="figure break-words">{f.found || "-"}</td>
                    <td>
                      <VerdictBadge small verdict={f.verdict} />
                    </td>
                    <td>{f.why}</td>
                  </tr>
                )}
              </Grouped>
            </Table>
          )}
        </>
      )}
    </section>
  );
}

function count(findings: Schemas["FindingOut"][]): string {
  return (["meets", "breaks", "advice", "unproven"] as const)
    .map((v) => [findings.filter((f) => f.verdict === v).length, v] as const)
    .filter(([n]) => n > 0)
    .map(([n, v]) => `${n} ${v}`)
    .join(", ");
}
