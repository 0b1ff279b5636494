import { useEffect, useState } from "react";
import { Link, useParams } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { FIELDS, type Ground, GROUNDS, type Shown } from "../../api/pictures";
import { Choice } from "../../ui/Choice";
import { PageHead } from "../../ui/PageHead";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { bytes } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { useCrate, useQuality } from "../../api/queries";
import { useChoiceInAddress } from "../../ui/address";
import { Button } from "../../ui/Button";
import { Play } from "./Play";
import { Quality, worstKeys } from "./Quality";
import { Samples } from "./Samples";
import { Wipe } from "./Wipe";

const VIEWS = ["beside", "wipe", "flicker", "difference", "samples", "play"] as const;
const GAINS = ["2", "8", "32"];
const LEFTS = ["master", "route"] as const;
type View = (typeof VIEWS)[number];
type Left = (typeof LEFTS)[number];
const SAID: Record<Left, string> = { master: "master", route: "master through the route" };

export function SideBySide() {
  const { id, deliverable } = useParams();
  const page = useCrate(Number(id));
  if (page.isPending) return <Loading what="the crate" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  const one = page.data.deliverables.find((d) => d.id === Number(deliverable));
  if (!one?.finished)
    return (
      <Empty title="There is no finished file to look at">
        Run it first, on{" "}
        <Link className="underline" to={`/crates/${id}`}>
          the crate's page
        </Link>
        .
      </Empty>
    );
  return <Shown crate={page.data} one={one} run={one.finished} />;
}

function Shown({
  crate,
  one,
  run,
}: {
  crate: Schemas["CratePage"];
  one: Schemas["DeliverableOut"];
  run: Schemas["RunOut"];
}) {
  const [view, setView] = useChoiceInAddress<View>("view", VIEWS, "beside");
  const [flick, setFlick] = useState(false);
  const [auto, setAuto] = useState(false);
  const { rate } = one;
  const { frame, to, last, keys } = useFrames(one.frames, rate);
  const quality = useQuality(run.id);
  const over = () => {
    setView("flicker");
    setFlick((f) => !f);
  };
  useKeys([
    ...keys,
    ...worstKeys(quality.data, frame, to),
    ...VIEWS.map((v, n) => ({ key: String(n + 1), does: v, run: () => setView(v) })),
    // Where both are played, it plays them.
    ...(view === "play" ? [] : [{ key: " ", does: "flicker: change over", run: over }]),
  ]);
  useEffect(() => {
    if (!auto || view !== "flicker") return;
    const timer = window.setInterval(() => setFlick((f) => !f), 700);
    return () => window.clearInterval(timer);
  }, [auto, view]);
  // Only what the route gives has the deliverable's framing: laid over each other they are alike.
  const [left, setLeft] = useChoiceInAddress<Left>(
    "left",
    LEFTS,
    view === "beside" ? "master" : "route",
  );
  const [field, setField] = useState<Shown>("woven");
  const [ground, setGround] = useState<Ground>("checker");
  const [gain, setGain] = useState("8");
  const pair = ["beside", "wipe", "flicker"].includes(view);
  const width = view === "beside" ? 800 : 1200;
  const look = `width=${width}&field=${field}&alpha=${ground}`;
  const master = `/api/runs/${run.id}/${left}-frames/${frame}?${look}`;
  const made = `/api/runs/${run.id}/frames/${frame}?${look}`;
  return (
    <>
      <PageHead title="Side by side" number={String(crate.number)}>
        <div role="group" aria-label="View" className="join">
          {VIEWS.map((v) => (
            <button
              key={v}
              className={`btn join-item btn-sm ${view === v ? "btn-active" : ""}`}
              aria-pressed={view === v}
              onClick={() => setView(v)}
            >
              {v}
            </button>
          ))}
        </div>
        {pair && quality.data?.interlaced && (
          <Choice
            label="field"
            values={[...FIELDS]}
            value={field}
            set={(v) => setField(v as Shown)}
          />
        )}
        {pair && quality.data?.alpha && (
          <Choice
            label="ground"
            values={[...GROUNDS]}
            value={ground}
            set={(v) => setGround(v as Ground)}
          />
        )}
        {view === "difference" && (
          <Choice label="amplified, times" values={GAINS} value={gain} set={setGain} />
        )}
        {pair && (
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={left === "route"}
              onChange={(e) => setLeft(e.target.checked ? "route" : "master")}
            />
            master through the route
          </label>
        )}
        <Link className="btn btn-sm" to={`/crates/${crate.id}`}>
          Back to the crate
        </Link>
      </PageHead>
      <Report run={run.id} measured={Boolean(quality.data?.measures.length)} />
      {view === "beside" && (
        <div className="grid grid-cols-2 gap-1">
          <figure>
            <Still className="aspect-video" src={master} alt={`${SAID[left]} at frame ${frame}`} />
            <figcaption>
              <b>{SAID[left]}</b> {one.item}
              {left === "master" && `, ${bytes(one.master.size)}`}
            </figcaption>
          </figure>
          <figure>
            <Still className="aspect-video" src={made} alt={`deliverable at frame ${frame}`} />
            <figcaption>
              <b>deliverable</b> {one.name}, {bytes(run.size ?? 0)}
            </figcaption>
          </figure>
        </div>
      )}
      {view === "wipe" && <Wipe before={master} after={made} names={[SAID[left], "deliverable"]} />}
      {view === "flicker" && (
        <figure>
          <Still
            className="mx-auto aspect-video max-h-[70vh]"
            src={flick ? made : master}
            alt={flick ? "deliverable" : SAID[left]}
          />
          <figcaption className="flex gap-3">
            <b>{flick ? "deliverable" : SAID[left]}</b>
            <Button onClick={() => setFlick((f) => !f)}>Change over</Button>
            <label>
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={auto}
                onChange={(e) => setAuto(e.target.checked)}
              />{" "}
              by itself
            </label>
          </figcaption>
        </figure>
      )}
      {view === "difference" && (
        <figure>
          <Still
            className="mx-auto aspect-video max-h-[70vh]"
            src={`/api/runs/${run.id}/differences/${frame}?width=${width}&gain=${gain}`}
            alt={`difference at frame ${frame}`}
          />
          <figcaption>
            How the deliverable differs from what the route gives, amplified {gain} times: black
            means no difference.
          </figcaption>
        </figure>
      )}
      {view === "samples" && <Samples run={run.id} frame={frame} />}
      {view === "play" && <Play run={run.id} frame={frame} to={to} />}
      {view === "play" && one.playable && (
        <details>
          <summary className="min-h-7 cursor-pointer">
            The file itself, as a browser plays it
          </summary>
          <video
            className="grey-wall mx-auto max-h-[70vh] w-full"
            controls
            preload="metadata"
            src={`/api/runs/${run.id}/play`}
            aria-label={`play ${one.name}`}
          />
        </details>
      )}
      <Steps frame={frame} to={to} last={last} rate={rate} />
      {quality.data ? (
        <Quality run={run.id} found={quality.data} frame={frame} to={to} />
      ) : quality.isError ? (
        <Problem error={quality.error} again={() => void quality.refetch()} />
      ) : (
        <Loading what="the quality" />
      )}
    </>
  );
}

/** Where the report on the file can be had, as often as it is asked for. */
function Report({ run, measured }: { run: number; measured: boolean }) {
  const at = (kind: string) => `/api/runs/${run}/report?kind=${kind}`;
  return (
    <p className="mb-1 flex gap-3">
      <b>Report</b>
      <a className="underline" href={at("html")} target="_blank" rel="noreferrer">
        as a page
      </a>
      <a className="underline" href={at("pdf")}>
        PDF
      </a>
      <a className="underline" href={at("json")}>
        JSON
      </a>
      {measured ? (
        <a className="underline" href={at("csv")}>
          figures of each frame as CSV
        </a>
      ) : (
        <span className="muted">the quality joins it when it is measured</span>
      )}
    </p>
  );
}
