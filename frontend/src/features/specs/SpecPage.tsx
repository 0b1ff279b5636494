import { Download, Printer } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { PageHead } from "../../ui/PageHead";
import { clock } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import type { Doc } from "./document";
import { AsTable, Contradictions, Sentences } from "./Reading";
import { TryFile } from "./TryFile";
import { comparison } from "./comparison";
import { useSpec } from "../../api/queries";
import { useChoiceInAddress } from "../../ui/address";
import { Button } from "../../ui/Button";
import { useDropDraft, useSaveSpec } from "../../api/mutations/specs";
import { Table } from "../../ui/Table";

const VIEWS = ["sentences", "table", "file"] as const;

export function SpecPage() {
  const id = useParams().id ?? "";
  const [query] = useSearchParams();
  const version = Number(query.get("version")) || undefined;
  const page = useSpec(id, version);
  if (page.isPending) return <Loading what="the spec" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  return <Shown key={`${id} ${page.data.reading.version}`} page={page.data} />;
}

function Shown({ page }: { page: Schemas["SpecPage"] }) {
  const { reading, yaml, versions, document } = page;
  const { id, version } = reading;
  const go = useNavigate();
  const [view, setView] = useChoiceInAddress("view", VIEWS, "sentences");
  const [trying, setTrying] = useState(false);
  const newest = Math.max(...versions.map((v) => v.version));
  const as = (status: string) => ({ document: { ...document, status }, base: newest });
  const state = useSaveSpec({
    onSuccess: (made) => void go(`/specs/${id}?version=${made.reading.version}`),
  });
  const drop = useDropDraft(id, {
    onSuccess: () => void go(versions.length > 1 ? `/specs/${id}` : "/specs"),
  });
  const edit = () => void go(`/specs/${id}/edit?version=${version}`);
  useKeys([
    ...VIEWS.map((v, n) => ({ key: String(n + 1), does: `read as ${v}`, run: () => setView(v) })),
    { key: "e", does: "edit", run: edit },
    { key: "t", does: "try a file", run: () => setTrying((t) => !t) },
  ]);
  const mine = versions.find((v) => v.version === version);
  const doc = document as unknown as Doc;
  return (
    <>
      <PageHead title={reading.title}>
        <div role="group" aria-label="Read as" className="join">
          {VIEWS.map((v) => (
            <button
              key={v}
              className={`btn join-item btn-sm ${view === v ? "btn-active" : ""}`}
              aria-pressed={view === v}
              onClick={() => setView(v)}
            >
              as {v}
            </button>
          ))}
        </div>
        <Button size="sm" aria-pressed={trying} onClick={() => setTrying(!trying)}>
          Try a file
        </Button>
        <Button size="sm" onClick={edit}>
          Edit
        </Button>
        <Button size="sm" onClick={() => window.print()}>
          <Printer size={15} aria-hidden /> Print
        </Button>
        {page.in_force && (
          <Link className="btn btn-primary btn-sm no-print" to={`/crates/new?spec=${id}`}>
            New crate to this spec
          </Link>
        )}
        {doc.status === "draft" && (
          <Button
            size="sm"
            tone="primary"
            disabled={
              state.isPending || reading.contradictions.some((c) => c.grade === "contradiction")
            }
            onClick={() => state.mutate(as("in force"))}
          >
            Put in force
          </Button>
        )}
      </PageHead>
      <p>
        {reading.recipient?.name} ({reading.recipient?.kind}), version {version},{" "}
        {page.in_force
          ? "in force"
          : doc.status === "in force"
            ? "not the one in force"
            : doc.status}
        {reading.valid_from && `, valid from ${reading.valid_from}`}. {reading.summary}
      </p>
      <p className="muted mb-2">
        {reading.source}. {reading.recipient?.note} File name:{" "}
        <span className="figure">{reading.name_pattern}</span>
      </p>
      {state.isError && <Problem error={state.error} />}
      {drop.isError && <Problem error={drop.error} />}
      <details className="no-print mb-3">
        <summary className="cursor-pointer">
          {versions.length === 1 ? "One version" : `${versions.length} versions`},{" "}
          {mine?.open_crates ?? 0} open {mine?.open_crates === 1 ? "crate" : "crates"} of{" "}
          {mine?.crates ?? 0} planned with this one
        </summary>
        <Table columns={["version", "status", "changed", "written", "crates", ""]} className="mt-1">
          <tbody>
            {versions.map((v) => (
              <tr key={v.version}>
                <td>
                  <Link className="underline" to={`/specs/${id}?version=${v.version}`}>
                    {v.version}
                  </Link>
                  {v.version === version && " (shown)"}
                </td>
                <td>
                  {v.in_force ? "in force" : v.status === "in force" ? "earlier" : v.status}
                  {v.valid_from && `, from ${v.valid_from}`}
                </td>
                <td>{clock(v.changed_at)}</td>
                <td>{v.origin === "file" ? "in a file" : "here"}</td>
                <td>
                  {v.open_crates} open of {v.crates}
                </td>
                <td>
                  {v.version !== version && (
                    <Link
                      className="underline"
                      to={comparison(
                        id,
                        Math.min(v.version, version),
                        Math.max(v.version, version),
                      )}
                    >
                      Compare with {version}
                    </Link>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
        {page.crates.length > 0 && (
          <p className="mt-1">
            Used by{" "}
            {page.crates.slice(0, 12).map((c, n) => (
              <span key={c.id}>
                {n > 0 && ", "}
                <Link className="underline" to={`/crates/${c.id}`}>
                  <span className="font-stencil">
                    {c.number}
                    {c.revision > 1 && ` r${c.revision}`}
                  </span>{" "}
                  {c.title}
                </Link>{" "}
                <span className="muted">
                  ({c.state}
                  {c.version !== version && `, version ${c.version}`})
                </span>
              </span>
            ))}
            {page.crates.length > 12 && ` and ${page.crates.length - 12} more`}.
          </p>
        )}
        <p className="mt-2 flex flex-wrap gap-2">
          <a className="btn btn-xs" href={`/api/specs/${id}/file?version=${version}&form=yaml`}>
            <Download size={13} aria-hidden /> YAML
          </a>
          <a className="btn btn-xs" href={`/api/specs/${id}/file?version=${version}&form=json`}>
            <Download size={13} aria-hidden /> JSON
          </a>
          <Link className="btn btn-xs" to={`/specs/new?copy=${id}&version=${version}`}>
            Begin a copy
          </Link>
          <Link className="btn btn-xs" to={`/specs/compare?left=${id}&left_version=${version}`}>
            Compare with another
          </Link>
          {version === newest && doc.status === "in force" && (
            <Button onClick={() => state.mutate(as("withdrawn"))}>Withdraw</Button>
          )}
          {version === newest && doc.status === "withdrawn" && (
            <Button onClick={() => state.mutate(as("in force"))}>Put in force again</Button>
          )}
          {doc.status === "draft" && (
            <Button onClick={() => drop.mutate(version)}>Remove this draft</Button>
          )}
        </p>
      </details>
      {reading.contradictions.length > 0 && (
        <div className="mb-3">
          <Contradictions found={reading.contradictions} />
        </div>
      )}
      {trying && <TryFile spec={id} version={version} />}
      {view === "file" ? (
        <pre className="figure overflow-x-auto border border-base-300 bg-base-200 p-3">{yaml}</pre>
      ) : view === "table" ? (
        <AsTable reading={reading} />
      ) : (
        <Sentences reading={reading} />
      )}
    </>
  );
}
