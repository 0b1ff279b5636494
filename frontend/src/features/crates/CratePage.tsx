import clsx from "clsx";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { ReadyLine } from "../floor/Floor";
import { PageHead } from "../../ui/PageHead";
import { RunLine } from "../../ui/RunLine";
import { VerdictBadge, Strip } from "../../ui/VerdictBadge";
import { bytes, clock, span } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Loading, OwnWords, Problem } from "../../ui/states";
import { Items, rowsOf, useView, Views } from "./Items";
import { ItemState } from "./ItemState";
import { Ledger } from "./Ledger";
import { PictureBand } from "./PictureBand";
import { PutBack, Question, QUESTIONS, type Step } from "./Question";
import { CrateChoices } from "./CrateChoices";
import { useGrid } from "./useGrid";
import { NewerSpec, WholeCrate } from "./WholeCrate";
import { useCrate } from "../../api/queries";
import { OtherThanHouse } from "../bench/House";
import { Notice } from "../../ui/Notice";
import { useAddress } from "../../ui/address";
import { Button } from "../../ui/Button";
import { type CrateStep, useCrateStep, useRunAgain } from "../../api/mutations/crates";

type Page = Schemas["CratePage"];

export function CratePage() {
  const id = Number(useParams().id);
  const page = useCrate(id);
  if (page.isPending) return <Loading what="the crate" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  return <Shown key={id} crate={page.data} stale={page.isError ? page.error : null} />;
}

function Shown({ crate, stale }: { crate: Page; stale: unknown }) {
  const go = useNavigate();
  const [item, setItem] = useAddress("item", "");
  const at = Math.max(
    0,
    crate.deliverables.findIndex((d) => String(d.id) === item),
  );
  const one = crate.deliverables[at];
  const [view, setView] = useView(crate.deliverables.length);
  const grid = useGrid(rowsOf(crate), one?.id, (id) => setItem(String(id)));
  const setAt = (n: number) => {
    const next = crate.deliverables[Math.max(0, Math.min(crate.deliverables.length - 1, n))];
    if (next) setItem(String(next.id));
  };
  const act = useCrateStep(crate.id, {
    onSuccess: (made, step) => {
      if (step === "revise") void go(`/crates/${made.id}`);
      if (step === "remove")
        void go("/", { state: { removed: { id: crate.id, number: crate.number } } });
    },
  });
  const again = useRunAgain();
  const [asked, setAsked] = useState<Step | null>(null);
  const NEXT: Record<string, string> = {
    run: "Run",
    seal: "Seal the crate",
    "hand over": "Hand over",
    revise: "Open a new revision",
  };
  const label = NEXT[crate.next_step];
  const take_ = (step: string) => {
    if (act.isPending) return;
    if (step in QUESTIONS) setAsked(step as Step);
    else act.mutate(step as CrateStep);
  };
  const next = () => {
    if (label && !asked) take_(crate.next_step);
  };
  useKeys([
    {
      key: "Enter",
      does: label ? label.toLowerCase() : "the next step (nothing to do now)",
      run: next,
    },
    ...(view === "labels"
      ? [
          { key: "ArrowDown", does: "next deliverable", run: () => setAt(at + 1) },
          { key: "ArrowUp", does: "previous deliverable", run: () => setAt(at - 1) },
        ]
      : grid.keys),
    {
      key: "p",
      does: "planning bench",
      run: () => {
        if (one) void go(`/crates/${crate.id}/bench/${one.id}`);
      },
    },
    {
      key: "b",
      does: "side by side",
      run: () => {
        if (one?.finished) void go(`/crates/${crate.id}/side-by-side/${one.id}`);
      },
    },
  ]);
  return (
    <>
      <PageHead
        title={crate.title}
        number={`${crate.number}${crate.revision > 1 ? ` r${crate.revision}` : ""}`}
      >
        {crate.state === "open" &&
          !crate.removed_at &&
          crate.deliverables.every(
            (d) => !d.run || !["queued", "running", "stopping"].includes(d.run.state),
          ) && (
            <Button size="sm" tone="ghost" onClick={() => take_("remove")}>
              Remove
            </Button>
          )}
        {crate.deliverables.length > 0 && !crate.removed_at && (
          <Link className="btn btn-sm btn-ghost" to={`/crates/${crate.id}/clone`}>
            Make another like it
          </Link>
        )}
        {["sealed", "received", "refused"].includes(crate.state) &&
          crate.next_step !== "revise" && (
            <Button size="sm" onClick={() => act.mutate("revise")}>
              Open a new revision
            </Button>
          )}
        {crate.next_step === "wait" && crate.state === "open" && (
          <Button size="sm" onClick={() => act.mutate("stop")} disabled={act.isPending}>
            Stop all
          </Button>
        )}
        {label && !crate.removed_at && (
          <button
            className={`btn btn-sm ${asked ? "" : "btn-primary"}`}
            onClick={next}
            disabled={act.isPending}
          >
            {label}
          </button>
        )}
      </PageHead>
      <p className="mb-2">
        {crate.recipient.name},{" "}
        <Link className="underline" to={`/specs/${crate.spec}?version=${crate.spec_version}`}>
          {crate.spec_title}
        </Link>{" "}
        (version {crate.spec_version}), <ReadyLine crate={crate} />.{" "}
        {crate.state !== "received" && (
          <span className="muted">
            {crate.ready.wait >= 1 && `Waits ${span(crate.ready.wait)} for what stands before it. `}
            Encode {span(crate.ready.encode)}, measure {span(crate.ready.measure)}, seal{" "}
            {span(crate.ready.seal)}, transfer {span(crate.ready.transfer)} at{" "}
            {crate.recipient.line_rate}.
          </span>
        )}
      </p>
      {asked && (
        <Question
          step={asked}
          crate={crate}
          yes={() => {
            setAsked(null);
            act.mutate(asked);
          }}
          no={() => setAsked(null)}
        />
      )}
      {crate.removed_at && <PutBack id={crate.id} number={crate.number} />}
      {stale != null && <Problem error={stale} />}
      {act.isError && <Problem error={act.error} />}
      {again.isError && <Problem error={again.error} />}
      {crate.error && (
        <Notice tone="error" role="alert">
          <b>{crate.error.what}</b> {crate.error.way_out}
        </Notice>
      )}
      <NewerSpec crate={crate} />
      <WholeCrate crate={crate} />
      <NextStep crate={crate} />
      {view === "labels" && crate.deliverables.length > 1 && (
        <div className="mb-2">
          <Views view={view} setView={setView} />
        </div>
      )}
      {view === "labels" ? (
        <Labels crate={crate} at={at} setAt={setAt} />
      ) : (
        <Items
          crate={crate}
          view={view}
          setView={setView}
          grid={grid}
          at={one?.id}
          setAt={(id) => setItem(String(id))}
        />
      )}
      {one && (
        <section aria-label={one.name}>
          {one.trouble && (
            <Notice tone="error" role="alert">
              <b>{one.trouble.what}</b> {one.trouble.way_out}
            </Notice>
          )}
          <PictureBand crate={crate.id} deliverable={one} open={crate.state === "open"} />
          <CrateChoices deliverable={one} open={crate.state === "open"} />
          {crate.state === "open" && <OtherThanHouse crate={crate} one={one} />}
          {one.run && <RunLine run={one.run} />}
          {one.run?.state === "failed" && (
            <Notice tone="error" role="alert">
              <b>{one.run.error?.what}</b> {one.run.error?.way_out}{" "}
              <Button onClick={() => again.mutate(one.id)}>Run again</Button>
              <OwnWords said={one.run.error?.said} />
            </Notice>
          )}
          {one.run?.state === "cancelled" && (
            <p className="mb-2 bg-base-200 p-2">
              The last run was stopped.{" "}
              <Button onClick={() => again.mutate(one.id)}>Run again</Button>
            </p>
          )}
          {one.stale && (
            <Notice tone="warning">
              The plan or the master has changed since the last run, or its file is gone: it no
              longer counts. Run it again.
            </Notice>
          )}
          {one.finished && (
            <p className="mb-1 flex flex-wrap items-center gap-x-3">
              <VerdictBadge verdict={one.verdict} />
              <span className="figure">{bytes(one.finished.size ?? 0)}</span>
              <span>
                made in {span(one.finished.encode_seconds ?? 0)}, measured in{" "}
                {span(one.finished.measure_seconds ?? 0)}
              </span>
              {one.picture_size && (
                <Link className="underline" to={`/crates/${crate.id}/side-by-side/${one.id}`}>
                  Side by side
                </Link>
              )}
              {one.picture_size && (
                <Link className="underline" to={`/crates/${crate.id}/rehearsal/${one.id}`}>
                  Rehearsal
                </Link>
              )}
              {crate.state === "open" && (
                <Button onClick={() => again.mutate(one.id)}>Run again</Button>
              )}
              <span className="figure muted text-xs break-all">SHA-256 {one.finished.sha256}</span>
            </p>
          )}
          {one.finished?.notes.map((n) => (
            <Notice key={n} tone="accent">
              {n}
            </Notice>
          ))}
          <Ledger deliverable={one} open={crate.state === "open"} />
        </section>
      )}
    </>
  );
}

/** The items of a crate as labels beside each other. */
function Labels({ crate, at, setAt }: { crate: Page; at: number; setAt: (place: number) => void }) {
  return (
    <ul aria-label="Deliverables" className="mb-3 flex flex-wrap gap-2">
      {crate.deliverables.map((d, n) => {
        const strip = crate.strips.find((s) => s.deliverable === d.id);
        return (
          <li key={d.id}>
            <button
              onClick={() => setAt(n)}
              aria-pressed={n === at}
              className={clsx(
                "border-2 px-2 py-1 text-left",
                n === at ? "border-primary bg-base-200" : "border-base-300",
              )}
            >
              <span className="figure block text-xs">{d.name}</span>
              {strip && <Strip strip={strip} />}
              <ItemState deliverable={d} />
            </button>
          </li>
        );
      })}
    </ul>
  );
}

function NextStep({ crate }: { crate: Page }) {
  if (crate.next_step === "review") {
    return (
      <Notice tone="warning">
        <b>Not ready to seal.</b>
        <ul className="list-disc pl-5">
          {crate.obstacles.map((o) => (
            <li key={o}>{o}</li>
          ))}
        </ul>
      </Notice>
    );
  }
  if (crate.next_step === "plan" && crate.blocked)
    return (
      <Notice tone="warning">
        <b>Cannot be run yet.</b> {crate.blocked}
      </Notice>
    );
  if (crate.state === "open") return null;
  const said = crate.receipts[crate.receipts.length - 1];
  return (
    <div role="status" className="tape mb-3 bg-base-200 p-2">
      {crate.state !== "sealed" && (
        <b>{crate.state === "received" ? "Handed over and received." : crate.state}</b>
      )}
      {crate.sealed_at && (
        <>
          {" "}
          Sealed {clock(crate.sealed_at)} as <span className="figure">{crate.bag}</span>,{" "}
          {bytes(crate.bag_bytes ?? 0)}.{" "}
          <a
            className="underline"
            href={`/api/crates/${crate.id}/report`}
            target="_blank"
            rel="noreferrer"
          >
            Read the ledger in the bag
          </a>
          .
        </>
      )}
      {said && (
        <p>
          {crate.recipient.name} answered {clock(said.created_at)}: “{said.message}”{" "}
          <Link className="underline" to="/receipts">
            Receipt
          </Link>
        </p>
      )}
    </div>
  );
}
