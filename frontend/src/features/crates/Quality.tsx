import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCompare, useStopComparing } from "../../api/mutations/crates";
import { Button } from "../../ui/Button";
import { Notice } from "../../ui/Notice";
import { Table } from "../../ui/Table";
import { span } from "../../ui/format";
import type { Key } from "../../ui/keys";
import { Problem } from "../../ui/states";
import { Curve } from "./Curve";
import { Going } from "./Going";

type Found = Schemas["QualityOut"];
type Measure = Schemas["MeasureOut"];
const BUSY = ["waiting", "comparing", "stopping"];

/** The keys that go from one of the worst moments to the next on the time line. */
export function worstKeys(found: Found | undefined, frame: number, to: (n: number) => void): Key[] {
  const places = (found?.worst ?? []).map((m) => m.frame).sort((a, b) => a - b);
  if (!places.length) return [];
  const next = () => to(places.find((n) => n > frame) ?? places[0] ?? frame);
  const back = () => to(places.filter((n) => n < frame).at(-1) ?? places.at(-1) ?? frame);
  return [
    { key: "w", does: "next of the worst moments", run: next },
    { key: "W", does: "the worst moment before", run: back },
  ];
}

/** How near a deliverable stays to its master, taken through the route: by frame, in figures. */
export function Quality({
  run,
  found,
  frame,
  to,
}: {
  run: number;
  found: Found;
  frame: number;
  to: (n: number) => void;
}) {
  const compare = useCompare(run);
  const stop = useStopComparing(run);
  const busy = BUSY.includes(found.state);
  return (
    <section aria-label="Quality over time" className="mt-2">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-lg font-semibold">Quality over time</h2>
        {busy && (
          <Going
            topic="comparison"
            found={found}
            working="comparing"
            label="share of the frames compared"
            said={said}
            stop={stop}
          />
        )}
        {!busy && (
          <Button disabled={compare.isPending} onClick={() => compare.mutate()}>
            {found.measures.length ? "Measure it again" : "Measure the quality"}
          </Button>
        )}
        {!busy && found.measures.length > 0 && (
          <span className="muted">
            {found.frames} frames compared in {span(found.seconds)}, {found.identical} of them
            without any error.
          </span>
        )}
      </div>
      {compare.isError && <Problem error={compare.error} />}
      {found.state === "failed" && found.error && (
        <Notice tone="error" role="status">
          The comparison failed: {found.error.what} {found.error.way_out}
        </Notice>
      )}
      {found.state === "cancelled" && <p role="status">The comparison was stopped.</p>}
      {found.notes.map((note) => (
        <Notice key={note} tone="warning">
          {note}
        </Notice>
      ))}
      {found.measures.length > 0 ? (
        <Figures found={found} frame={frame} to={to} />
      ) : (
        found.state === "none" && (
          <p className="muted">
            Every frame of the file is held against what the route gives of the master: scaling,
            fields and colour that the spec asks for are not counted as damage.
          </p>
        )
      )}
    </section>
  );
}

function said(progress: Schemas["Progress"]) {
  if (progress.stage === "align") return "finding where both begin";
  const left = progress.remaining == null ? "" : `, about ${span(progress.remaining)} remaining`;
  return `frame ${progress.frame}/${progress.frames ?? "?"}, ${progress.speed.toFixed(2)}x${left}`;
}

function Figures({ found, frame, to }: { found: Found; frame: number; to: (n: number) => void }) {
  const [chosen, choose] = useState("xpsnr");
  const shown = found.measures.find((m) => m.key === chosen);
  const place = Math.floor((frame - found.first) / found.each);
  if (!shown) return null;
  const foretold = found.measures.some((m) => m.foretold !== null);
  return (
    <>
      <Curve
        measure={shown}
        each={found.each}
        first={found.first}
        frames={found.frames}
        frame={frame}
        worst={found.worst.map((m) => m.frame)}
        to={to}
      />
      <div className="grid gap-4 lg:grid-cols-[3fr_2fr]">
        <Table
          label="Figures of all frames"
          columns={[
            "measure",
            { head: "mean", className: "text-right" },
            { head: "19 of 20 reach", className: "text-right" },
            { head: "worst", className: "text-right" },
            ...(foretold ? [{ head: "mean foretold", className: "text-right" }] : []),
            { head: found.each > 1 ? "about here" : "here", className: "text-right" },
          ]}
        >
          <tbody>
            {found.measures.map((m) => (
              <tr key={m.key} className={m.key === shown.key ? "bg-base-200" : ""}>
                <th scope="row">
                  <button
                    className={m.key === shown.key ? "" : "font-normal hover:underline"}
                    aria-pressed={m.key === shown.key}
                    onClick={() => choose(m.key)}
                  >
                    {m.label}
                  </button>
                </th>
                {[
                  m.mean,
                  m.p5,
                  m.worst,
                  ...(foretold ? [m.foretold ?? undefined] : []),
                  m.curve[place],
                ].map((value, n) => (
                  <td key={n} className="figure text-right">
                    {figure(m, value)}
                  </td>
                ))}
              </tr>
            ))}
            <tr>
              <td colSpan={foretold ? 6 : 5} className="muted">
                {shown.says} <cite className="not-italic">Source: {shown.source}.</cite>
              </td>
            </tr>
          </tbody>
        </Table>
        <Worst found={found} frame={frame} to={to} />
      </div>
    </>
  );
}

/** A value in its unit; 100 dB stand for that and more, frames without any error among them. */
function figure(measure: Measure, value: number | undefined) {
  if (value === undefined) return "–";
  if (measure.unit === "dB" && value >= 100) return "≥ 100 dB";
  return `${value.toFixed(measure.digits)} ${measure.unit}`.trim();
}

function Worst({ found, frame, to }: { found: Found; frame: number; to: (n: number) => void }) {
  if (!found.worst.length)
    return <p className="muted">No moment is worse than the others: all frames are alike.</p>;
  const by = new Map(found.measures.map((m) => [m.key, m]));
  const value = (moment: Schemas["MomentOut"], key: string) => {
    const measure = by.get(key);
    return measure && figure(measure, moment.figures[key]);
  };
  return (
    <div>
      <h3 className="font-semibold">
        Worst moments <span className="muted font-normal">({found.worst.length}, by XPSNR)</span>
      </h3>
      <ol className="max-h-56 overflow-auto">
        {found.worst.map((m) => (
          <li key={m.frame}>
            <button
              className={`figure flex w-full gap-4 px-1 text-left hover:underline ${
                m.frame === frame ? "font-semibold" : ""
              }`}
              aria-current={m.frame === frame}
              onClick={() => to(m.frame)}
            >
              <span>{m.timecode}</span>
              <span>{value(m, "xpsnr")}</span>
              <span className="muted">SSIM {value(m, "ssim")}</span>
            </button>
          </li>
        ))}
      </ol>
    </div>
  );
}
