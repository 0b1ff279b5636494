import { useState } from "react";
import { Link, useParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useRehearse, useStopRehearsing } from "../../api/mutations/crates";
import { useCrate, useRehearsal } from "../../api/queries";
import { Button } from "../../ui/Button";
import { span } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Notice } from "../../ui/Notice";
import { PageHead } from "../../ui/PageHead";
import { Empty, Loading, Problem } from "../../ui/states";
import { Table } from "../../ui/Table";
import { Going, Troubles } from "./Going";
import { Replay } from "./Replay";
import { Waits } from "./Waits";

type Found = Schemas["RehearsalOut"];
type Played = Schemas["PlayedOut"];
const BUSY = ["waiting", "rehearsing", "stopping"];

/** How a finished file plays: every way, in one layer and in several. */
export function Rehearsal() {
  const { id, deliverable } = useParams();
  const page = useCrate(Number(id));
  if (page.isPending) return <Loading what="the crate" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  const one = page.data.deliverables.find((d) => d.id === Number(deliverable));
  if (!one?.finished)
    return (
      <Empty title="There is no finished file to play">
        Run it first, on{" "}
        <Link className="underline" to={`/crates/${id}`}>
          the crate's page
        </Link>
        .
      </Empty>
    );
  return <Shown crate={page.data} one={one} run={one.finished.id} />;
}

function Shown({
  crate,
  one,
  run,
}: {
  crate: Schemas["CratePage"];
  one: Schemas["DeliverableOut"];
  run: number;
}) {
  const found = useRehearsal(run);
  const rehearse = useRehearse(run);
  const stop = useStopRehearsing(run);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the rehearsal" />;
  const { state, hindrance, played } = found.data;
  const busy = BUSY.includes(state);
  return (
    <>
      <PageHead title="Rehearsal" number={String(crate.number)}>
        <Link className="btn btn-sm" to={`/crates/${crate.id}?item=${one.id}`}>
          Back to the crate
        </Link>
      </PageHead>
      <p className="mb-1">{found.data.name}</p>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        {busy && (
          <Going
            topic="rehearsal"
            found={found.data}
            working="rehearsing"
            label="share of the ways played"
            said={said}
            stop={stop}
          />
        )}
        {!busy && !hindrance && (
          <Button disabled={rehearse.isPending} onClick={() => rehearse.mutate()}>
            {played.length ? "Play it again" : "Play it every way"}
          </Button>
        )}
        {!busy && played.length > 0 && (
          <span className="muted">
            Played in {span(found.data.seconds)} on this machine; {found.data.rate} pictures a
            second are due.
          </span>
        )}
        {state === "cancelled" && <span role="status">The rehearsal was stopped.</span>}
      </div>
      {rehearse.isError && <Problem error={rehearse.error} />}
      <Troubles found={found.data} failed="It could not be played" />
      {found.data.asked && <Asked asked={found.data.asked} found={found.data} />}
      {!played.length && !busy && !hindrance && (
        <p className="muted max-w-2xl">
          Its frames are decoded one after the other as a player asks for them, by the file's own
          index: forwards, backwards, to and fro, anywhere and at odd speeds, in one layer, in two
          and in four.
        </p>
      )}
      {played.length > 0 && <Ways key={found.data.id} found={found.data} run={run} />}
    </>
  );
}

const said = (progress: Schemas["Progress"]) =>
  `playing, ${Math.round(100 * progress.share)} % of the ways`;

/** How the recipient plays it, and whether it can be played so here. */
function Asked({ asked, found }: { asked: Schemas["AskedOut"]; found: Found }) {
  const clause = asked.source ? ` (${asked.source})` : "";
  const says = `Asked${clause}: ${asked.said}.`;
  if (!found.played.length) return <p className="mb-2">{says}</p>;
  const short = found.ways.filter((w) => asked.short.includes(w.key)).map((w) => w.says);
  if (!short.length)
    return (
      <Notice tone="accent" role="status">
        <b>{says}</b> It played so on this machine.
      </Notice>
    );
  return (
    <Notice tone="warning" role="status">
      <b>{says}</b> On this machine pictures came late: {short.join("; ")}. A stronger player may
      keep up. Where the spec leaves a choice, a smaller frame, a lower frame rate or another coding
      is quicker to decode.
    </Notice>
  );
}

function Ways({ found, run }: { found: Found; run: number }) {
  const [at, setAt] = useState(0);
  const [tick, setTick] = useState<number | null>(null);
  const shown = found.played[at];
  const layers = [...new Set(found.played.map((p) => p.layers))];
  const all = found.played.length;
  const to = (n: number) => setAt((n + all) % all);
  useKeys([
    { key: "ArrowDown", does: "next way", run: () => to(at + layers.length) },
    { key: "ArrowUp", does: "way before", run: () => to(at - layers.length) },
    { key: "ArrowRight", does: "more layers", run: () => to(at + 1) },
    { key: "ArrowLeft", does: "fewer layers", run: () => to(at - 1) },
  ]);
  return (
    <>
      <Table
        label="Late pictures by way and layers"
        columns={["way", ...layers.map((n) => `${n} ${n === 1 ? "layer" : "layers"}`)]}
        className="w-auto"
      >
        <tbody>
          {found.ways.map((way) => (
            <tr key={way.key}>
              <th scope="row" className="pr-6 text-left font-normal">
                {way.says}
              </th>
              {layers.map((n) => {
                const place = found.played.findIndex((p) => p.way === way.key && p.layers === n);
                const one = found.played[place];
                return (
                  <td key={n}>
                    {one && (
                      <button
                        className="btn btn-xs figure"
                        aria-pressed={place === at}
                        onClick={() => setAt(place)}
                      >
                        {asks(found, one) && <span title="asked for by the spec">asked: </span>}
                        {result(one)}
                      </button>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </Table>
      {shown && found.rate !== null && (
        <>
          <Waits
            played={shown}
            says={found.ways.find((w) => w.key === shown.way)?.says ?? shown.way}
            each={1000 / found.rate}
            tick={tick}
          />
          <Replay key={at} run={run} played={shown} each={1000 / found.rate} at={setTick} />
        </>
      )}
      {found.beside.length > 0 && <Beside found={found} layers={layers} />}
    </>
  );
}

const asks = ({ asked }: Found, one: Played) =>
  asked !== null && asked.layers === one.layers && asked.ways.includes(one.way);

const result = (one: Played) =>
  one.late === 0 ? "none late" : `${one.late} of ${one.shown} late, ${one.worst.toFixed(1)} ms`;

/** Other files of the same master, by the most layers that play without a late picture. */
function Beside({ found, layers }: { found: Found; layers: number[] }) {
  const files = [{ name: found.name, played: found.played }, ...found.beside];
  return (
    <section aria-label="Beside other files of this master" className="mt-3">
      <h2 className="font-semibold">Beside other files of this master</h2>
      <Table
        label="Files of this master"
        columns={["way", ...files.map((f) => f.name)]}
        className="w-auto"
      >
        <tbody>
          {found.ways.map((way) => (
            <tr key={way.key}>
              <th scope="row" className="pr-6 text-left font-normal">
                {way.says}
              </th>
              {files.map((file, n) => (
                <td key={n} className="figure">
                  {holds(file.played, way.key, layers)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}

/** Says how many layers play one way without a late picture. */
function holds(played: Played[], way: string, layers: number[]): string {
  const clean = layers.filter((n) =>
    played.some((p) => p.way === way && p.layers === n && p.late === 0),
  );
  const most = clean.at(-1);
  const one = played.find((p) => p.way === way && p.layers === 1);
  const could = one ? `, ${Math.round(one.could)} a second in one` : "";
  if (most === undefined) return `late in one layer${could}`;
  return `${most} ${most === 1 ? "layer" : "layers"} in time${could}`;
}
