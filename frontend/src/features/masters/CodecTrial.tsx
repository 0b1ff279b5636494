import { Link, useParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useStopTrying } from "../../api/mutations/masters";
import { useCodecTrial, useMaster } from "../../api/queries";
import { bitRate, bytes, span } from "../../ui/format";
import { PageHead } from "../../ui/PageHead";
import { Loading, Problem } from "../../ui/states";
import { Table } from "../../ui/Table";
import { Going, Troubles } from "../crates/Going";
import { CodecOrder } from "./CodecOrder";
import { read } from "./tries";

type Found = Schemas["CodecTrialOut"];
type Master = Schemas["MasterPage"];
const BUSY = ["waiting", "trying", "stopping"];

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
      {!found.hindrance && <CodecOrder master={master} found={found} busy={busy} />}
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

const COSTS = ["codec", "rate", "size", "encoded", "XPSNR", "lowest 5 %", "PSNR", "SSIM"];
const DECODED = ["forwards", "backwards", "anywhere"];

/** What came of each. */
function Came({ found, master }: { found: Found; master: Master }) {
  return (
    <section aria-label="What came of each" className="mt-4">
      <h2 className="font-semibold">What came of {found.frames} frames of each</h2>
      <Table label="What came of each codec" columns={[...COSTS, ...DECODED]}>
        <tbody>
          {found.tried.map((one, n) => (
            <tr key={n}>
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
