import { useState } from "react";
import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useChoose, useLearn, useStopLearning } from "../../api/mutations/crates";
import { useHardness } from "../../api/queries";
import { bitRate, bytes, length, span } from "../../ui/format";
import { Button } from "../../ui/Button";
import { Notice } from "../../ui/Notice";
import { useKeys } from "../../ui/keys";
import { useSettled } from "../../ui/settled";
import { Loading, Problem } from "../../ui/states";
import { Table } from "../../ui/Table";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { Going, Troubles } from "../crates/Going";
import { Easing } from "./Easing";
import { Foot, type Part, useBack } from "./Foot";
import { RateCurve } from "./RateCurve";
import { nearest } from "./rates";
import { TryOut } from "./TryOut";

type Learned = Schemas["LearnedOut"];
type Bought = Schemas["BoughtOut"];
const RATE = "picture.bit_rate";
const SIZE = 1; // its column
const apart = (n: number) => `${Math.abs(n).toFixed(1)} dB ${n > 0 ? "above" : "below"} what`;
const BUSY = ["waiting", "sampling", "stopping"];

/** What a rate buys of these pictures: learned from some seconds of them. */
export function Rate({ crate, one, open }: Part) {
  const found = useHardness(one.id);
  const learn = useLearn(one.id);
  const stop = useStopLearning(one.id);
  const back = useBack(one);
  // What was learned is seen by the plan that it is of, until it is known what holds of another.
  const settled = useSettled(one, !found.isFetching);
  useKeys(open ? back.keys : []);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="what a rate buys" />;
  const { state, hindrance, learned, stale } = found.data;
  const busy = BUSY.includes(state);
  return (
    <>
      {back.error && <Problem error={back.error} />}
      <div className="flex flex-wrap items-center gap-3">
        {busy && (
          <Going
            topic="sampling"
            found={found.data}
            working="sampling"
            label="share of the stretches looked at"
            said={said}
            stop={stop}
          />
        )}
        {!busy && !hindrance && open && (
          <Button disabled={learn.isPending} onClick={() => learn.mutate()}>
            {learned ? "Look at it again" : "Look how hard these pictures are"}
          </Button>
        )}
        {learned && !busy && (
          <span className="muted">
            Foretold from {learned.sampled.frames} of {learned.sampled.of} frames, looked at in{" "}
            {span(learned.sampled.seconds)}.
            {learned.above !== 0 &&
              ` Runs of this kind came out ${apart(learned.above)} samples alone foretold, which is
              counted in.`}
            {learned.short && " Of so short a film an encoder may spend less than it is given."}
          </span>
        )}
      </div>
      {learn.isError && <Problem error={learn.error} />}
      <Troubles found={found.data} failed="It could not be learned" />
      {state === "cancelled" && <p role="status">Looking was stopped.</p>}
      {stale && !hindrance && !busy && (
        <p role="status">What was learned is of another picture than the one planned now.</p>
      )}
      {!learned && !busy && !hindrance && (
        <p className="muted">
          Some seconds are coded as planned, finer and coarser, and held against what went in.
        </p>
      )}
      {learned && (
        <Shown key={learned.planned.bit_rate} learned={learned} one={settled} open={open} />
      )}
      {open && <Foot crate={crate} one={one} keys={[RATE]} what="rate" />}
    </>
  );
}

const said = (progress: Schemas["Progress"]) => {
  const left = progress.remaining == null ? "" : `, about ${span(progress.remaining)} remaining`;
  return `frame ${progress.frame} of what is coded${left}`;
};

function Shown({ learned, one, open }: { learned: Learned } & Omit<Part, "crate">) {
  const middle = nearest(learned.points, learned.planned.bit_rate);
  const [at, setAt] = useState(middle);
  const [first, setFirst] = useState(learned.hardest[0]?.first);
  const part = learned.hardest.find((p) => p.first === first) ?? learned.hardest[0];
  const choose = useChoose(one.id);
  const point = learned.points[at] ?? learned.planned;
  const here = at === middle && learned.planned.near ? learned.planned : point;
  const free = open && RATE in one.choices;
  return (
    <>
      {!learned.planned.near && (
        <Notice tone="warning" role="status">
          <b>What {bitRate(learned.planned.bit_rate)} buys is not foretold.</b> It lies far from
          what these pictures took where they were tried: {tried(learned)}.
        </Notice>
      )}
      {learned.planned.near && learned.planned.xpsnr < learned.poor.quality && (
        <Notice tone="warning" role="status">
          <b>At {bitRate(learned.planned.bit_rate)} this will look poor.</b> {helps(learned)}
        </Notice>
      )}
      {learned.planned.near && learned.planned.xpsnr < learned.poor.quality && (
        <Easing one={one} open={open} planned={learned.planned} />
      )}
      {learned.points.length > 1 && (
        <>
          <RateCurve learned={learned} at={here.bit_rate} to={setAt} />
          <input
            type="range"
            className="range range-xs w-full"
            aria-label="rate to look at"
            aria-valuetext={`${bitRate(here.bit_rate)}, XPSNR ${here.xpsnr.toFixed(1)} dB`}
            min={0}
            max={learned.points.length - 1}
            value={at}
            onChange={(e) => setAt(Number(e.target.value))}
          />
        </>
      )}
      <div className="flex flex-wrap items-start gap-x-12 gap-y-2">
        <Table
          label="What rates buy"
          columns={["", "rate", "size", "encoded in", "sent in", "XPSNR", "PSNR", "SSIM"]}
          className="w-auto"
        >
          <tbody>
            <BuysRow name="looked at" bought={here} cap={learned.cap} />
            <BuysRow name="as planned" bought={learned.planned} cap={learned.cap} />
            {learned.cap && (
              <BuysRow name={`fills the cap (${learned.cap_of})`} bought={learned.cap} />
            )}
          </tbody>
        </Table>
        <div>
          <dl className="facts-short">
            <Zone name="hardly any loss shows: from" zone={learned.clean} />
            <Zone name="most things show loss: below" zone={learned.poor} />
          </dl>
          {learned.planned.near && (
            <Hardest learned={learned} picked={part?.first} pick={setFirst} />
          )}
        </div>
      </div>
      {learned.planned.near && part && (
        <TryOut learned={learned} here={here} one={one} part={part} />
      )}
      {open && !free && (
        <p className="muted mt-2">
          The rate is not chosen here: it follows from what the spec asks besides.
        </p>
      )}
      {free && <p className="muted mt-2">{room(learned)}</p>}
      {free && (
        <Button
          className="take-rate mt-2"
          disabled={choose.isPending || here.bit_rate === learned.planned.bit_rate}
          onClick={() =>
            choose.mutate({
              property: RATE,
              value: `${Math.round(here.bit_rate / 1000)} kb/s`,
            })
          }
        >
          Take {bitRate(here.bit_rate)}
        </Button>
      )}
      {choose.isError && <Problem error={choose.error} />}
      <p className="mt-2">
        <Link className="underline" to={`/masters/${one.master.id}/codecs`}>
          Try other codecs, or a second pass, on this master
        </Link>
      </p>
    </>
  );
}

function room({ allowed: [least, most] }: Learned): string {
  const from = least == null ? "" : ` from ${bitRate(least)}`;
  const to = most == null ? "" : ` to ${bitRate(most)}`;
  return from || to ? `The spec takes rates${from}${to}.` : "The spec takes any rate.";
}

function tried({ tried: [least = 0, most = 0] }: Learned): string {
  return `${bitRate(least)} to ${bitRate(most)}`;
}

function helps({ planned, poor }: Learned): string {
  if (poor.bit_rate === null) return "No rate near it is enough.";
  const share = Math.floor((100 * planned.bit_rate) / poor.bit_rate);
  return (
    `From ${bitRate(poor.bit_rate)} on it would not: ${bytes(poor.size ?? 0)}, or a cut to ` +
    `${share} % of the length in as many bytes.`
  );
}

function BuysRow({
  name,
  bought,
  cap = null,
}: {
  name: string;
  bought: Bought;
  cap?: Bought | null;
}) {
  const over = cap !== null && bought.size > cap.size;
  const quality = [
    `${bought.xpsnr.toFixed(1)} dB`,
    `${bought.psnr.toFixed(1)} dB`,
    bought.ssim.toFixed(3),
  ];
  const figures = [
    bitRate(bought.bit_rate),
    bytes(bought.size),
    bought.make === null ? "" : span(bought.make),
    span(bought.send),
    ...(bought.near ? quality : ["not foretold", "", ""]),
  ];
  return (
    <tr>
      <th scope="row" className="text-left">
        {name}
      </th>
      {figures.map((figure, n) => (
        <td key={n} className="figure text-right">
          {figure}
          {over && n === SIZE && <VerdictBadge small verdict="breaks" />}
        </td>
      ))}
    </tr>
  );
}

function Zone({ name, zone }: { name: string; zone: Schemas["ZoneOut"] }) {
  return (
    <div>
      <dt className="inline">{name} </dt>
      <dd className="figure inline">
        {zone.bit_rate === null ? "no rate near this one" : bitRate(zone.bit_rate)}{" "}
        <span className="muted">(XPSNR {zone.quality} dB)</span>
      </dd>
    </div>
  );
}

function Hardest({
  learned,
  picked,
  pick,
}: {
  learned: Learned;
  picked: number | undefined;
  pick: (first: number) => void;
}) {
  return (
    <section aria-label="Hardest at the planned rate">
      <h2 className="font-semibold">Hardest at the planned rate</h2>
      <ol>
        {learned.hardest.map((part) => (
          <li key={part.first} className="figure">
            <label>
              <input
                type="radio"
                name="hard part"
                className="radio radio-xs"
                checked={part.first === picked}
                onChange={() => pick(part.first)}
              />{" "}
              {length(part.seconds)}
            </label>{" "}
            {part.xpsnr.toFixed(1)} dB, takes {bitRate(part.bit_rate)}{" "}
            <Link className="underline" to={`?part=motion&frame=${part.first}`}>
              its frames
            </Link>
          </li>
        ))}
      </ol>
    </section>
  );
}
