import { Plus } from "lucide-react";
import { Link, useLocation, useNavigate } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { PutBack } from "../crates/Question";
import { PageHead } from "../../ui/PageHead";
import { RunLine } from "../../ui/RunLine";
import { Strip } from "../../ui/VerdictBadge";
import { bytes, clock, span } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { useFloor } from "../../api/queries";
import { type Column, Grouped, Table } from "../../ui/Table";

type Crate = Schemas["CrateOut"];
const DONE = "handed over";
const COLUMNS: Column[] = [
  "no.",
  "crate",
  "deliverables",
  { head: "load", className: "text-right" },
  "time to ready",
  "next",
];

const GROUPS = ["late", "today", "this week", "later", DONE];

function groupOf(crate: Crate): string {
  if (crate.state === "received") return DONE;
  const due = new Date(crate.due_at).getTime();
  const now = Date.now();
  if (due < now) return "late";
  if (new Date(due).toDateString() === new Date(now).toDateString()) return "today";
  return due - now < 7 * 86400e3 ? "this week" : "later";
}

export function ReadyLine({ crate }: { crate: Crate }) {
  if (crate.state === "received") return <>received</>;
  const { ready } = crate;
  const parts = [
    ...(ready.wait >= 1 ? [`waits ${span(ready.wait)} for others`] : []),
    `encode ${span(ready.encode)}`,
    `measure ${span(ready.measure)}`,
    `seal ${span(ready.seal)}`,
    `transfer ${span(ready.transfer)}`,
  ];
  return (
    <span title={parts.join(", ")}>
      {ready.held > 0 && (
        <>
          <b>held back</b>; if released now,{" "}
        </>
      )}
      ready <span className="figure">{clock(ready.ready_at)}</span>, due{" "}
      <span className="figure">{clock(crate.due_at)}</span>,{" "}
      <span className={ready.spare < 0 ? "font-semibold text-error" : ""}>
        {span(ready.spare)} {ready.spare < 0 ? "too late" : "spare"}
      </span>
    </span>
  );
}

function CrateRow({ crate }: { crate: Crate }) {
  return (
    <tr className="hover:bg-base-200">
      <td className="font-stencil text-lg leading-none whitespace-nowrap">
        {crate.number}
        {crate.revision > 1 && <span className="text-sm"> r{crate.revision}</span>}
      </td>
      <td>
        <Link
          className="font-semibold underline-offset-2 hover:underline"
          to={`/crates/${crate.id}`}
        >
          {crate.title}
        </Link>
        <div className="muted">
          {crate.recipient.name}, {crate.spec_title}
        </div>
      </td>
      <td>
        {!crate.worked_out && <span className="opacity-70">being worked out…</span>}
        {crate.strips.map((s) => (
          <div key={s.deliverable}>
            <Strip strip={s} />
          </div>
        ))}
      </td>
      <td className="figure text-right whitespace-nowrap">
        {bytes(crate.bytes)}
        {crate.cap !== null && (
          <div className="muted">
            cap {bytes(crate.cap)} {crate.cap_of}
          </div>
        )}
      </td>
      <td>
        <ReadyLine crate={crate} />
      </td>
      <td className="whitespace-nowrap">{crate.next_step}</td>
    </tr>
  );
}

export function Floor() {
  const go = useNavigate();
  const removed = (useLocation().state as { removed?: { id: number; number: number } } | null)
    ?.removed;
  const floor = useFloor();
  useKeys([
    { key: "n", does: "new crate", run: () => void go("/crates/new") },
    { key: "i", does: "all items", run: () => void go("/items") },
    { key: "m", does: "masters", run: () => void go("/masters") },
    { key: "s", does: "specs", run: () => void go("/specs") },
  ]);
  if (floor.isPending) return <Loading what="the floor" />;
  if (!floor.data) return <Problem error={floor.error} again={() => void floor.refetch()} />;
  const { crates, running, attention } = floor.data;
  return (
    <>
      <PageHead title="Floor">
        <Link className="btn btn-sm" to="/items">
          All items
        </Link>
        <Link className="btn btn-primary btn-sm" to="/crates/new">
          <Plus size={15} aria-hidden /> New crate
        </Link>
      </PageHead>
      {removed && <PutBack key={removed.id} id={removed.id} number={removed.number} />}
      {floor.isError && <Problem error={floor.error} />}
      <section aria-label="Running now" className="tape mb-4 bg-base-200 px-3 py-2">
        <h2 className="font-semibold">Running now</h2>
        {running.length === 0 && (
          <p className="muted">
            Nothing runs. Runs you start show here, wherever you started them.
          </p>
        )}
        {running.map((r) => (
          <div key={r.run.id} className="mt-1">
            <Link className="hover:underline" to={`/crates/${r.crate}`}>
              <span className="font-stencil">{r.number}</span> {r.name}
            </Link>
            <RunLine run={r.run} />
          </div>
        ))}
      </section>
      <div className="flex items-start gap-5">
        <div className="min-w-0 grow">
          {crates.length === 0 && (
            <Empty title="No crates are due">
              Make one with{" "}
              <Link className="underline" to="/crates/new">
                New crate
              </Link>
              .
            </Empty>
          )}
          <Table columns={crates.length > 0 ? COLUMNS : undefined}>
            <Grouped groups={GROUPS} of={groupOf} rows={crates} span={COLUMNS.length}>
              {(c) => <CrateRow key={c.id} crate={c} />}
            </Grouped>
          </Table>
        </div>
        <aside aria-label="Needs a person" className="w-56 shrink-0 border-l border-base-300 pl-4">
          <h2 className="font-semibold">Needs a person</h2>
          {attention.length === 0 && <p className="muted">Nothing waits for you.</p>}
          <ul>
            {attention.map((a, n) => (
              <li key={n} className="border-b border-base-300 py-1.5">
                <Link
                  className="font-semibold break-words hover:underline"
                  to={a.kind === "master" ? "/masters" : `/crates/${String(a.id)}`}
                >
                  {String(a.title)}
                </Link>
                <div>{String(a.what)}</div>
              </li>
            ))}
          </ul>
        </aside>
      </div>
    </>
  );
}
