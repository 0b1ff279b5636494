import { useState } from "react";
import { Link, useParams } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { useProgress } from "../../api/live";
import { PageHead } from "../../ui/PageHead";
import { useFrames } from "../../ui/Viewer";
import { bytes, fps } from "../../ui/format";
import { Loading, Problem } from "../../ui/states";
import { Deck, type Marks } from "./Deck";
import { Facts } from "./Facts";
import { Fits } from "./Fits";
import { Near } from "./Near";
import { Ranges } from "./Ranges";
import { TimeLine } from "./TimeLine";
import { useMaster, useProductions } from "../../api/queries";
import { Notice } from "../../ui/Notice";
import { Button } from "../../ui/Button";
import { useReadAgain, useSetProduction } from "../../api/mutations/masters";

export function MasterPage() {
  const id = Number(useParams().id);
  const page = useMaster(id);
  if (page.isPending) return <Loading what="the master" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  return <Shown key={id} master={page.data} />;
}

function Shown({ master }: { master: Schemas["MasterPage"] }) {
  // Sound alone is walked through in steps as fine as a frame at 25 a second.
  const frames = master.has_picture
    ? master.frames
    : Math.ceil((master.seconds ?? 0) * fps(master.rate));
  const { frame, to, last, keys } = useFrames(frames, master.rate);
  const [marks, setMarks] = useState<Marks>({ first: null, last: null });
  const progress = useProgress(
    "master",
    master.id,
    master.state === "measuring" ? master.progress : null,
  );
  const again = useReadAgain();
  const seen = master.state === "ready" || master.state === "measuring";
  return (
    <>
      <PageHead title={master.name}>
        <Production master={master} />
        <Button
          size="sm"
          onClick={() => again.mutate(master.id)}
          disabled={!seen && master.state !== "failed" && master.state !== "changed"}
        >
          Read again
        </Button>
        {master.state === "ready" && master.has_picture && !master.still && (
          <Link className="btn btn-sm" to={`/masters/${master.id}/codecs`}>
            Try codecs
          </Link>
        )}
        {seen && (
          <Link className="btn btn-sm" to={`/crates/several?masters=${master.id}`}>
            To several recipients
          </Link>
        )}
        <Link className="btn btn-primary btn-sm" to={`/crates/new?masters=${master.id}`}>
          Put in a new crate
        </Link>
      </PageHead>
      <p className="muted mb-2">
        {master.summary.join(", ")}, {bytes(master.size)}
        {master.crates.length ? `. In ${master.crates.join("; ")}.` : ""}
      </p>
      {again.isError && <Problem error={again.error} />}
      {master.error && (
        <Notice tone="error" role="alert">
          <b>{master.error.what}</b> {master.error.way_out}
        </Notice>
      )}
      {master.same_as.length > 0 && (
        <Notice tone="warning" role="note">
          The same bytes were handed in before, as {master.same_as.join(", ")}.
        </Notice>
      )}
      {master.notes.map((n) => (
        <Notice key={n} tone="error" role="alert">
          {n}
        </Notice>
      ))}
      {master.state === "measuring" && (
        <p role="status" className="mb-2">
          {progress?.stage === "checksum"
            ? "Its checksum is being taken"
            : "Being measured by decoding it whole"}
          {progress ? <span className="figure"> {Math.round(100 * progress.share)} %</span> : ""}.
          Until then, what stands here is the header's word.
        </p>
      )}
      <div className="grid gap-5 lg:grid-cols-[minmax(0,1.35fr)_minmax(0,1fr)]">
        <div>
          {seen && (
            <Deck
              master={master}
              frame={frame}
              to={to}
              last={last}
              keys={keys}
              marks={marks}
              setMarks={setMarks}
            />
          )}
          {seen && <TimeLine master={master} frame={frame} to={to} marks={marks} />}
          {seen && master.has_picture && !master.still && (
            <Ranges master={master} marks={marks} setMarks={setMarks} to={to} />
          )}
          {master.state === "ready" && master.has_picture && !master.still && (
            <Near master={master} to={to} />
          )}
          <Fits fits={master.fits} />
        </div>
        <Facts master={master} />
      </div>
    </>
  );
}

function Production({ master }: { master: Schemas["MasterPage"] }) {
  const [name, setName] = useState(master.production);
  const known = useProductions();
  const keep = useSetProduction();
  return (
    <label className="flex items-center gap-1">
      <span className="muted">production</span>
      <input
        className="input input-sm w-44"
        list="productions"
        value={name}
        maxLength={200}
        onChange={(e) => setName(e.target.value)}
        onBlur={() => {
          if (name !== master.production) keep.mutate({ ids: [master.id], production: name });
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
      <datalist id="productions">
        {known.data?.map((p) => (
          <option key={p.name} value={p.name} />
        ))}
      </datalist>
      {keep.isError && (
        <span role="alert" className="text-error">
          {keep.error.message}
        </span>
      )}
    </label>
  );
}
