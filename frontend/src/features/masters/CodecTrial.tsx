import { useState } from "react";
import { Link, useParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useStopTrying, useTryCodecs } from "../../api/mutations/masters";
import { useCodecTrial, useMaster } from "../../api/queries";
import { Button } from "../../ui/Button";
import { bitRate, bytes, fps, span } from "../../ui/format";
import { PageHead } from "../../ui/PageHead";
import { Loading, Problem } from "../../ui/states";
import { Table } from "../../ui/Table";
import { Going, Troubles } from "../crates/Going";
import { type Piece, read, spread, type Try, write } from "./tries";

type Found = Schemas["CodecTrialOut"];
type Master = Schemas["MasterPage"];
const BUSY = ["waiting", "trying", "stopping"];
const PARTS = 8; // seconds, spread over the master
const MOST = 12;
const FIRST = ["h264:bit_rate=4 Mb/s", "h264:bit_rate=4 Mb/s:passes=2", "hevc:bit_rate=4 Mb/s"];

/** Codecs on the same part of a master: what each costs and gives. */
export function CodecTrial() {
  const id = Number(useParams().id);
  const page = useMaster(id);
  const found = useCodecTrial(id);
  const again = () => void Promise.all([page.refetch(), found.refetch()]);
  if (page.isError || (found.isError && !found.data))
    return <Problem error={page.error ?? found.error} again={again} />;
  if (!page.data || !found.data) return <Loading what="the trial of codecs" />;
  return <Shown key={id} master={page.data} found={found.data} />;
}

function Shown({ master, found }: { master: Master; found: Found }) {
  const stop = useStopTrying(master.id);
  const busy = BUSY.includes(found.state);
  return (
    <>
      <PageHead title="Trial of codecs">
        <Link className="btn btn-sm" to={`/masters/${master.id}`}>
          Back to the master
        </Link>
      </PageHead>
      <p className="mb-2">{master.name}</p>
      {!found.hindrance && <Order master={master} found={found} busy={busy} />}
      {busy && (
        <div className="my-2 flex flex-wrap items-center gap-3">
          <Going
            topic="codec_trial"
            found={found}
            working="trying"
            label="share of the codecs tried"
            said={said}
            stop={stop}
          />
        </div>
      )}
      <Troubles found={found} failed="They could not be tried" />
      {!busy && !found.tried.length && !found.hindrance && (
        <p className="muted mt-2 max-w-2xl">
          Each is encoded from the same frames, held against them frame by frame, and decoded
          forwards, backwards and anywhere. Sound is left out; all else is as the master has it.
        </p>
      )}
      {found.state === "cancelled" && <p role="status">The trial was stopped.</p>}
      {found.stale && <p role="status">What was tried was another master under this name.</p>}
      {found.tried.length > 0 && <Came found={found} master={master} />}
      {found.before.length > 0 && <Before found={found} />}
    </>
  );
}

const said = ({ frame, frames, remaining }: Schemas["Progress"]) =>
  `codec ${frame} of ${frames}` + (remaining == null ? "" : `, about ${span(remaining)} remaining`);

type Part = { name: string; pieces: Piece[] };

function partsOf(master: Master, asked: Piece[]): Part[] {
  const each = Math.round(fps(master.rate));
  const some = spread(master.frames, each, PARTS);
  const known = [
    ...(some.length ? [{ name: `${PARTS} seconds, spread over it`, pieces: some }] : []),
    { name: `all of it, ${master.frames} frames`, pieces: [] },
    ...master.spans.map((s) => ({
      name: `${s.name}, ${s.frames} frames`,
      pieces: [{ first: s.first, frames: s.frames }],
    })),
  ];
  if (known.some((part) => same(part.pieces, asked))) return known;
  const frames = asked.reduce((sum, piece) => sum + piece.frames, 0);
  return [...known, { name: `what was tried, ${frames} frames`, pieces: asked }];
}

const same = (one: Piece[], other: Piece[]) =>
  one.length === other.length &&
  one.every((p, n) => p.first === other[n]?.first && p.frames === other[n].frames);

/** What is to be tried, and on which part. */
function Order({ master, found, busy }: { master: Master; found: Found; busy: boolean }) {
  const parts = partsOf(master, found.pieces);
  const last = parts.findIndex((p) => same(p.pieces, found.pieces));
  const [part, setPart] = useState(found.tries.length > 0 ? Math.max(0, last) : 0);
  const [rows, setRows] = useState(() =>
    (found.tries.length ? found.tries : FIRST).map((text, key) => ({ key, one: read(text) })),
  );
  const order = useTryCodecs(master.id);
  const set = (key: number, change: Partial<Try>) =>
    setRows((all) =>
      all.map((row) => (row.key === key ? { key, one: { ...row.one, ...change } } : row)),
    );
  const add = () =>
    setRows((all) => {
      const key = Math.max(-1, ...all.map((row) => row.key)) + 1;
      return [...all, { key, one: all.at(-1)?.one ?? read("h264") }];
    });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        order.mutate({
          tries: rows.map((row) => write(row.one)),
          pieces: parts[part]?.pieces ?? [],
        });
      }}
    >
      <label className="mb-2 flex items-center gap-2">
        <span className="muted">tried on</span>
        <select
          className="select select-sm w-auto"
          value={part}
          onChange={(e) => setPart(Number(e.target.value))}
        >
          {parts.map((one, n) => (
            <option key={one.name} value={n}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      <ol aria-label="Codecs to try" className="flex flex-col gap-1">
        {rows.map(({ key, one }, n) => (
          <li key={key} className="flex flex-wrap items-center gap-2">
            <One
              one={one}
              number={n + 1}
              codecs={found.codecs}
              set={(change) => set(key, change)}
            />
            <Button
              aria-label={`Leave out codec ${n + 1}`}
              disabled={rows.length === 1}
              onClick={() => setRows((all) => all.filter((row) => row.key !== key))}
            >
              Leave out
            </Button>
          </li>
        ))}
      </ol>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button disabled={rows.length >= MOST} onClick={add}>
          Add another
        </Button>
        <Button type="submit" tone="primary" disabled={busy || order.isPending}>
          Try them
        </Button>
      </div>
      {order.isError && <Problem error={order.error} />}
    </form>
  );
}

function One({
  one,
  number,
  codecs,
  set,
}: {
  one: Try;
  number: number;
  codecs: Schemas["CodecOut"][];
  set: (change: Partial<Try>) => void;
}) {
  const codec = codecs.find((c) => c.key === one.codec);
  const other = (key: string) => {
    const next = codecs.find((c) => c.key === key);
    set({
      codec: key,
      rate: next?.rated ? one.rate || "4 Mb/s" : "",
      passes: Math.min(one.passes, next?.passes ?? 1),
      more: "",
    });
  };
  return (
    <>
      <select
        className="select select-sm w-48"
        aria-label={`codec ${number}`}
        value={one.codec}
        onChange={(e) => other(e.target.value)}
      >
        {codecs.map((c) => (
          <option key={c.key} value={c.key}>
            {c.label}
          </option>
        ))}
      </select>
      {codec?.rated && (
        <input
          className="input input-sm figure w-28"
          aria-label={`rate of codec ${number}`}
          placeholder="its usual rate"
          value={one.rate}
          onChange={(e) => set({ rate: e.target.value })}
        />
      )}
      {codec && codec.passes > 1 && (
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={one.passes > 1}
            onChange={(e) => set({ passes: e.target.checked ? 2 : 1 })}
          />
          two passes
        </label>
      )}
      <input
        className="input input-sm figure w-56"
        aria-label={`more of codec ${number}`}
        placeholder="such as profile=lt"
        value={one.more}
        onChange={(e) => set({ more: e.target.value })}
      />
    </>
  );
}

const COSTS = ["codec", "rate", "size", "encoded", "XPSNR", "lowest 5 %", "PSNR", "SSIM"];
const DECODED = ["forwards", "backwards", "anywhere"];

/** What came of each. */
function Came({ found, master }: { found: Found; master: Master }) {
  return (
    <section aria-label="What came of each" className="mt-4">
      <h2 className="font-semibold">What came of {found.frames} frames of each</h2>
      <Table label="What came of each codec" columns={[...COSTS, ...DECODED]}>
        <tbody>
          {found.tried.map((one) => (
            <tr key={one.text}>
              <th scope="row" className="min-w-44 text-left font-normal">
                {named(one)}
              </th>
              {one.came && <Costs came={one.came} />}
              {one.error && (
                <td colSpan={COSTS.length + DECODED.length - 1}>
                  <b>{one.error.what}</b> {one.error.way_out}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </Table>
      <p className="muted mt-1">
        Rates count the wrapper. Encoded and decoded are frames a second on this machine, forwards,
        backwards and anywhere each asked for by itself.{" "}
        <a className="underline" href={`/api/masters/${master.id}/codec-trial/table.csv`}>
          The table as CSV
        </a>
      </p>
    </section>
  );
}

function named(one: Schemas["TriedOut"]): string {
  const { rate, passes, more } = read(one.text);
  const parts = [one.label, rate && `at ${rate}`, passes > 1 && "in two passes", more];
  return parts.filter(Boolean).join(" ");
}

function Costs({ came }: { came: Schemas["CostOut"] }) {
  const decoded = [came.decode.forwards, came.decode.backwards, came.decode.random];
  const figures = [
    bitRate(came.bit_rate),
    bytes(came.bytes),
    `${came.fps.toFixed(1)} /s`,
    `${came.xpsnr.mean.toFixed(1)} dB`,
    `${came.xpsnr.p5.toFixed(1)} dB`,
    `${came.psnr.mean.toFixed(1)} dB`,
    came.ssim.mean.toFixed(3),
    ...decoded.map((n) => `${Math.round(n)} /s`),
  ];
  return figures.map((figure, n) => (
    <td key={n} className="figure text-right">
      {figure}
    </td>
  ));
}

/** Finished runs of the same codecs. */
function Before({ found }: { found: Found }) {
  const columns = ["codec", "file", "frame", "rate", "size", "encoded", "XPSNR"];
  return (
    <section aria-label="Finished runs of these codecs" className="mt-4">
      <h2 className="font-semibold">Finished runs of these codecs</h2>
      <Table label="Finished runs of these codecs" columns={columns}>
        <tbody>
          {found.before.map((one) => (
            <tr key={one.run}>
              <th scope="row" className="text-left font-normal">
                {one.label}
                {one.passes > 1 && " in two passes"}
              </th>
              <td>
                <Link className="underline" to={`/crates/${one.crate}?item=${one.deliverable}`}>
                  {one.name}
                </Link>
                {one.mine && <span className="muted"> of this master</span>}
              </td>
              {[
                `${one.width} x ${one.height}`,
                bitRate(one.bit_rate),
                bytes(one.bytes),
                one.fps == null ? "by several" : `${one.fps.toFixed(1)} /s`,
                one.xpsnr == null ? "not compared" : `${one.xpsnr.toFixed(1)} dB`,
              ].map((figure, n) => (
                <td key={n} className="figure text-right">
                  {figure}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}
