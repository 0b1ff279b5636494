import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useRef } from "react";
import { Link, useNavigate } from "react-router-dom";
import { api, type Schemas, unwrap, ApiError } from "../../api/client";
import { PageHead } from "../../ui/PageHead";
import { useKeys } from "../../ui/keys";
import { bytes } from "../../ui/format";
import { Empty, Loading, Problem } from "../../ui/states";
import { keys } from "../../api/keys";
import { useSpecs } from "../../api/queries";
import { useAddress, useChoiceInAddress } from "../../ui/address";
import { Button } from "../../ui/Button";
import { useReadSpecFiles } from "../../api/mutations/specs";
import { type Column, Grouped, Table } from "../../ui/Table";

const COLUMNS: Column[] = [
  "spec",
  "recipient",
  "what it asks",
  { head: "cap", className: "text-right" },
  "crates",
  "version",
];
const KINDS = ["broadcaster", "disc", "venue", "platform", "collaborator"];
const SHOW = ["in force", "draft", "withdrawn", "all"] as const;

/** Sizes are written 720x576 and 720 x 576: both find both. */
const plain = (text: string) => text.toLowerCase().replace(/(\d) ?[x×] ?(\d)/g, "$1x$2");

const words = (text: string) => plain(text).split(/\s+/).filter(Boolean);
const about = (s: Schemas["SpecOut"]) =>
  plain(`${s.title} ${s.id} ${s.summary} ${s.recipient.name} ${s.recipient.kind}`);

function matches(spec: Schemas["SpecOut"], text: string): boolean {
  const all = `${about(spec)} ${plain(spec.asks)}`;
  return words(text).every((word) => all.includes(word));
}

/** The clauses in which a search was found, where the row itself does not show its words. */
function clauses(spec: Schemas["SpecOut"], text: string): string[] {
  const hidden = words(text).filter((word) => !about(spec).includes(word));
  return spec.asks
    .split("; ")
    .filter((clause) => hidden.some((word) => plain(clause).includes(word)))
    .slice(0, 4);
}

function shows(spec: Schemas["SpecOut"], show: (typeof SHOW)[number]): boolean {
  return show === "all" || (show === "in force" ? spec.in_force : spec.newest_status === show);
}

const byRecipient = (a: Schemas["SpecOut"], b: Schemas["SpecOut"]) =>
  a.recipient.name.localeCompare(b.recipient.name) || a.title.localeCompare(b.title);

export function Specs() {
  const specs = useSpecs();
  const go = useNavigate();
  const [text, setText] = useAddress("q", "");
  const [show, setShow] = useChoiceInAddress("show", SHOW, "in force");
  const search = useRef<HTMLInputElement>(null);
  const refused = useQuery({
    queryKey: keys.specs.refused,
    queryFn: () => unwrap(api.GET("/api/specs/refused")),
  });
  const read = useReadSpecFiles();
  useKeys([
    { key: "/", does: "search", run: () => search.current?.focus() },
    { key: "n", does: "write a new spec", run: () => void go("/specs/new") },
    { key: "r", does: "read the spec files again", run: () => read.mutate() },
  ]);
  if (specs.isPending) return <Loading what="the register" />;
  if (!specs.data) return <Problem error={specs.error} again={() => void specs.refetch()} />;
  const found = specs.data.filter((s) => shows(s, show) && matches(s, text));
  return (
    <>
      <PageHead title="Specs">
        <Button size="sm" onClick={() => read.mutate()} disabled={read.isPending}>
          Read the files again
        </Button>
        <Link className="btn btn-sm" to="/specs/compare">
          Compare two
        </Link>
        <Link className="btn btn-primary btn-sm" to="/specs/new">
          <Plus size={15} aria-hidden /> Write a spec
        </Link>
      </PageHead>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <input
          ref={search}
          type="search"
          className="input input-sm w-72"
          aria-label="Search specs"
          placeholder="search title, recipient, what it asks"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <div role="group" aria-label="Show" className="join">
          {SHOW.map((s) => (
            <button
              key={s}
              className={`btn join-item btn-sm ${show === s ? "btn-active" : ""}`}
              aria-pressed={show === s}
              onClick={() => setShow(s)}
            >
              {s}
            </button>
          ))}
        </div>
        <span className="muted" role="status">
          {found.length} of {specs.data.length}
        </span>
      </div>
      {read.isError && <Problem error={read.error} />}
      {read.data && <p className="muted">{read.data.specs} spec files were read.</p>}
      {refused.data?.refused.map((r) => (
        <Problem
          key={r.file}
          error={new ApiError(`Left out of the register: ${r.what}`, r.way_out)}
        />
      ))}
      {found.length === 0 && (
        <Empty title={specs.data.length ? "No spec is like that" : "The register is empty"}>
          {specs.data.length
            ? "Search for less, or show all."
            : "Spec files in specs/ are read when the server starts; or write one here."}
        </Empty>
      )}
      <Table columns={found.length > 0 ? COLUMNS : undefined}>
        <Grouped
          groups={KINDS}
          of={(s) => s.recipient.kind}
          rows={[...found].sort(byRecipient)}
          span={COLUMNS.length}
        >
          {(s) => (
            <tr key={s.id} className="hover:bg-base-200">
              <td>
                <Link className="font-semibold hover:underline" to={`/specs/${s.id}`}>
                  {s.title}
                </Link>
              </td>
              <td className="whitespace-nowrap">{s.recipient.name}</td>
              <td>
                {s.summary}
                {clauses(s, text).map((c) => (
                  <div key={c} className="muted">
                    {c}
                  </div>
                ))}
              </td>
              <td className="figure text-right whitespace-nowrap">
                {s.cap ? bytes(s.cap) : ""}
                {s.cap && <div className="muted font-sans">{s.cap_of}</div>}
              </td>
              <td className="whitespace-nowrap">
                {s.crates ? `${s.open_crates} open of ${s.crates}` : ""}
              </td>
              <td className="whitespace-nowrap">
                <span className="figure">{s.version}</span>,{" "}
                {s.in_force ? "in force" : s.newest_status}
                {s.newest !== s.version && (
                  <div className="muted">
                    version {s.newest}: {s.newest_status}
                  </div>
                )}
              </td>
            </tr>
          )}
        </Grouped>
      </Table>
    </>
  );
}
