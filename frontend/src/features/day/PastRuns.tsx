import { useState } from "react";
import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useRunAgain } from "../../api/mutations/crates";
import { type HistoryQuery, useHistory } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";
import { PageHead } from "../../ui/PageHead";
import { Table } from "../../ui/Table";
import { useAddress, useChoiceInAddress } from "../../ui/address";
import { bitRate, bytes, clock, span } from "../../ui/format";
import { Empty, Loading, Problem } from "../../ui/states";

const STATES = ["", "done", "failed", "cancelled"] as const;
const PAGE = 100;
const COLUMNS = [
  "ended",
  "item",
  "recipient",
  "codec",
  { head: "size", className: "text-right" },
  { head: "encoded in", className: "text-right" },
  { head: "foretold", className: "text-right" },
  { head: "speed", className: "text-right" },
  { head: "XPSNR", className: "text-right" },
  "came of it",
];
const KINDS = [
  "codec",
  { head: "runs", className: "text-right" },
  { head: "speed", className: "text-right" },
  { head: "bit rate", className: "text-right" },
  { head: "XPSNR", className: "text-right" },
];
const given = (query: HistoryQuery) =>
  Object.fromEntries(Object.entries(query).filter(([, value]) => value !== ""));

/** The runs that have ended: what was made, how long it took, how good it is, what went wrong. */
export function PastRuns() {
  const [words, setWords] = useAddress("words", "");
  const [state, setState] = useChoiceInAddress("state", STATES, "");
  const [codec, setCodec] = useAddress("codec", "");
  const [since, setSince] = useAddress("since", "");
  const [until, setUntil] = useAddress("until", "");
  const [limit, setLimit] = useState(PAGE);
  const query = given({ words, state, codec, since, until }) as HistoryQuery;
  const found = useHistory({ ...query, limit });
  return (
    <>
      <PageHead title="Past runs">
        <a
          className="btn btn-sm"
          href={`/api/runs/history.csv?${new URLSearchParams(query as Record<string, string>)}`}
          download
        >
          As CSV
        </a>
        <Link className="btn btn-sm" to="/day">
          Day sheet
        </Link>
      </PageHead>
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <TextField
          type="search"
          className="w-56"
          aria-label="find runs"
          placeholder="item, crate, recipient, number"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
        <Select
          aria-label="what came of it"
          value={state}
          onChange={(e) => setState(STATES.find((s) => s === e.target.value) ?? "")}
        >
          {STATES.map((s) => (
            <option key={s} value={s}>
              {s || "whatever came of it"}
            </option>
          ))}
        </Select>
        <Select aria-label="codec" value={codec} onChange={(e) => setCodec(e.target.value)}>
          <option value="">any codec</option>
          {Object.entries(found.data?.codecs ?? {}).map(([key, label]) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </Select>
        <label>
          from{" "}
          <TextField
            type="date"
            className="w-36"
            value={since}
            onChange={(e) => setSince(e.target.value)}
          />
        </label>
        <label>
          to{" "}
          <TextField
            type="date"
            className="w-36"
            value={until}
            onChange={(e) => setUntil(e.target.value)}
          />
        </label>
        {found.data && <span className="muted">{found.data.total} runs</span>}
      </div>
      {found.isPending && <Loading what="past runs" />}
      {found.isError && <Problem error={found.error} again={() => void found.refetch()} />}
      {found.data?.total === 0 && (
        <Empty title="No run that has ended is like that">
          Ask for less, or run something from a crate&apos;s page.
        </Empty>
      )}
      {found.data && found.data.by_codec.length > 1 && <ByCodec kinds={found.data.by_codec} />}
      {found.data && found.data.total > 0 && (
        <Table label="Past runs" columns={COLUMNS}>
          <tbody>
            {found.data.rows.map((r) => (
              <tr key={r.id}>
                <td className="figure">{clock(r.finished_at)}</td>
                <td>
                  <b className="break-all">{r.item}</b>
                  <div className="muted">
                    <Link className="hover:underline" to={`/crates/${r.crate}`}>
                      <span className="font-stencil">{r.number}</span> {r.title}
                    </Link>
                  </div>
                </td>
                <td>{r.recipient}</td>
                <td className="whitespace-nowrap">{r.codec || "copied"}</td>
                <td className="figure whitespace-nowrap text-right">
                  {r.size === null ? "-" : bytes(r.size)}
                </td>
                <Seconds of={r.encode_seconds} />
                <Seconds of={r.foretold_seconds} />
                <td className="figure whitespace-nowrap text-right">
                  {r.speed === null ? "-" : `${r.speed.toFixed(2)}x`}
                </td>
                <td className="figure whitespace-nowrap text-right">
                  {r.quality === null ? "-" : `${r.quality.toFixed(1)} dB`}
                </td>
                <td className={r.state === "failed" ? "text-error" : ""}>
                  {r.error || r.state}
                  {r.state !== "done" && <Again deliverable={r.deliverable} item={r.item} />}
                  {r.workers > 1 && <div className="muted">by {r.workers} workers</div>}
                  {r.starts > 1 && <div className="muted">taken up {r.starts} times</div>}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {found.data && found.data.total > found.data.rows.length && limit < 500 && (
        <Button size="sm" onClick={() => setLimit(Math.min(500, limit + PAGE))}>
          Show more
        </Button>
      )}
    </>
  );
}

/** Codecs compared by speed, rate and quality, over the runs that are looked at. */
function ByCodec({ kinds }: { kinds: Schemas["CodecCompared"][] }) {
  return (
    <details className="mb-2">
      <summary className="min-h-7 cursor-pointer">Codecs compared: medians of these runs</summary>
      <Table label="Codecs compared" columns={KINDS} className="w-auto">
        <tbody>
          {kinds.map((k) => (
            <tr key={k.codec}>
              <td>{k.codec}</td>
              <td className="figure whitespace-nowrap text-right">{k.runs}</td>
              <td className="figure whitespace-nowrap text-right">
                {k.speed === null ? "-" : `${k.speed.toFixed(2)}x`}
              </td>
              <td className="figure whitespace-nowrap text-right">
                {k.bit_rate === null ? "-" : bitRate(k.bit_rate)}
              </td>
              <td className="figure whitespace-nowrap text-right">
                {k.quality === null ? "-" : `${k.quality.toFixed(1)} dB`}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </details>
  );
}

/** Runs an item again of which the run came to nothing. */
function Again({ deliverable, item }: { deliverable: number; item: string }) {
  const run = useRunAgain();
  if (run.isSuccess) return <div className="muted">it runs again</div>;
  return (
    <>
      <Button
        className="min-h-7"
        aria-label={`Run again: ${item}`}
        disabled={run.isPending}
        onClick={() => run.mutate(deliverable)}
      >
        Run again
      </Button>
      {run.isError && <Problem error={run.error} />}
    </>
  );
}

const Seconds = ({ of }: { of: number | null }) => (
  <td className="figure whitespace-nowrap text-right">{of === null ? "-" : span(of)}</td>
);
