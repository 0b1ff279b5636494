import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router-dom";
import { api, type Schemas, take } from "../api/client";
import { Head } from "../ui/Frame";
import { useKeys } from "../ui/keys";
import { Loading, Problem } from "../ui/states";

const GROUPS = ["picture", "motion", "sound", "file"];
const VIEWS = ["sentences", "table", "file"] as const;

export function SpecPage() {
  const id = useParams().id ?? "";
  const page = useQuery({ queryKey: ["spec", id], queryFn: () => take(api.GET("/api/specs/{id}", { params: { path: { id } } })) });
  const [view, setView] = useState<(typeof VIEWS)[number]>("sentences");
  useKeys(VIEWS.map((v, n) => ({ key: String(n + 1), does: `read as ${v}`, run: () => setView(v) })));
  if (page.isPending) return <Loading what="the spec" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  const { spec, rows, source, yaml, name_pattern } = page.data;
  return (
    <>
      <Head title={spec.title}>
        <div role="group" aria-label="Read as" className="join">
          {VIEWS.map((v) => <button key={v} className={`btn join-item btn-sm ${view === v ? "btn-active" : ""}`} aria-pressed={view === v} onClick={() => setView(v)}>as {v}</button>)}
        </div>
        <button className="btn btn-sm" onClick={() => window.print()}><Printer size={15} aria-hidden /> Print</button>
        <Link className="btn btn-primary btn-sm" to={`/crates/new?spec=${spec.id}`}>New crate to this spec</Link>
      </Head>
      <p>{spec.recipient.name} ({spec.recipient.kind}), version {spec.version}, {spec.status}. {spec.summary}</p>
      <p className="muted mb-3">{source}. {spec.recipient.note} File name: <span className="figure">{name_pattern}</span></p>
      {view === "file" ? <pre className="figure overflow-x-auto border border-base-300 bg-base-200 p-3">{yaml}</pre> : view === "table" ? <Table rows={rows} /> : <Sentences rows={rows} />}
    </>
  );
}

function Sentences({ rows }: { rows: Schemas["RequirementOut"][] }) {
  return (
    <div className="max-w-3xl">
      {GROUPS.map((g) => {
        const inside = rows.filter((r) => r.group === g);
        return inside.length ? (
          <section key={g} className="mb-3">
            <h2 className="mb-1 border-b-2 border-accent font-semibold">{g}</h2>
            <ol className="list-decimal pl-6">
              {inside.map((r) => (
                <li key={r.property} className="py-0.5">
                  {r.sentence} {r.house && <em>This house takes {r.house}. {r.house_note}</em>} <span className="muted">[{r.source}]</span>
                </li>
              ))}
            </ol>
          </section>
        ) : null;
      })}
    </div>
  );
}

function Table({ rows }: { rows: Schemas["RequirementOut"][] }) {
  return (
    <table className="rows w-full">
      <thead><tr className="muted"><th>property</th><th>asked</th><th>severity</th><th>room</th><th>source</th><th>note</th></tr></thead>
      {GROUPS.map((g) => (
        <tbody key={g}>
          <tr className="group"><th colSpan={6} scope="rowgroup">{g}</th></tr>
          {rows.filter((r) => r.group === g).map((r) => (
            <tr key={r.property}>
              <td>{r.label}</td><td className="figure">{r.asked}</td><td>{r.severity}</td>
              <td>{r.room ? (r.house ? `house takes ${r.house}` : "yours to choose") : ""}</td><td>{r.source}</td><td>{r.note}</td>
            </tr>
          ))}
        </tbody>
      ))}
    </table>
  );
}
