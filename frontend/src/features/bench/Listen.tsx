import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { length } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { evened, type Side, useListening } from "./listen";
import { LoudnessCurve, LoudnessFigures } from "./Loudness";
import { Meters } from "./Meters";

const SIDES: Side[] = ["taken", "made"];

/** What was heard of a track: before and after, to look at and to listen to. */
export function Listen({
  deliverable,
  hearing,
  place,
  track,
  heard,
}: {
  deliverable: number;
  /** Which hearing it is of. */
  hearing: number;
  /** Of the track among those that were heard, from 1. */
  place: number;
  track: Schemas["SoundTrackOut"];
  heard: Schemas["HeardOut"];
}) {
  const audio = useRef<HTMLAudioElement>(null);
  const [side, setSide] = useState<Side>("made");
  const [even, setEven] = useState(false);
  const gains = even ? evened(heard.taken.loudness, heard.made.loudness) : { taken: 1, made: 1 };
  const { playing, toggle, at, to } = useListening(audio, side, gains);
  const [moment, setMoment] = useState(-1);
  const go = (n: number) => {
    const found = heard.worst[n];
    if (!found) return;
    setMoment(n);
    to(found.seconds);
  };
  const next = () => go((moment + 1) % Math.max(1, heard.worst.length));
  useKeys([
    { key: " ", does: "play or stop", run: toggle },
    { key: "b", does: "hear the other: before or after", run: () => setSide(other(side)) },
    { key: "e", does: "as loud as each other, or as they are", run: () => setEven(!even) },
    { key: "ArrowLeft", does: "a second back", run: () => to(at - 1) },
    { key: "ArrowRight", does: "a second on", run: () => to(Math.min(heard.seconds, at + 1)) },
    ...(heard.worst.length ? [{ key: "w", does: "next moment that is held", run: next }] : []),
  ]);
  const name = (one: Side) => (one === "taken" && heard.as_mixed ? "mixed" : one);
  return (
    <section aria-label="What was heard">
      <audio
        ref={audio}
        preload="auto"
        src={
          heard.there ? `/api/crates/deliverables/${deliverable}/hearing/${place}/copy` : undefined
        }
      />
      <LoudnessCurve heard={heard} target={track.target} at={at} to={to} />
      <input
        type="range"
        className="range range-xs w-full"
        aria-label="second listened to"
        aria-valuetext={length(at)}
        min={0}
        max={heard.seconds}
        step={0.1}
        value={Math.min(at, heard.seconds)}
        onChange={(e) => to(Number(e.target.value))}
      />
      <div className="my-1 flex flex-wrap items-center gap-2">
        <Button disabled={!heard.there} onClick={toggle}>
          {playing ? "Stop" : "Play"}
        </Button>
        <div role="group" aria-label="What is heard" className="join">
          {SIDES.map((one) => (
            <button
              key={one}
              className={`btn join-item btn-xs ${side === one ? "btn-active" : ""}`}
              aria-pressed={side === one}
              onClick={() => setSide(one)}
            >
              {name(one)}
            </button>
          ))}
        </div>
        <Button aria-pressed={even} onClick={() => setEven(!even)}>
          as loud as each other
        </Button>
        <span className="figure">
          {length(at)} <span className="muted">of {length(heard.seconds)}</span>
        </span>
        {!heard.there && (
          <span className="muted">What could be listened to was cleared away: hear it again.</span>
        )}
      </div>
      <div className="flex flex-wrap items-start gap-x-12 gap-y-2">
        <LoudnessFigures heard={heard} />
        <Meters
          deliverable={deliverable}
          hearing={hearing}
          track={place}
          taken={heard.taken.speakers}
          made={heard.made.speakers}
          at={at}
        />
        <section aria-label="Where peaks are held" className="max-w-xs">
          <h2 className="font-semibold">Where peaks are held</h2>
          {heard.worst.length === 0 ? (
            <p>Nowhere: none reaches the limit.</p>
          ) : (
            <>
              <p>
                In {heard.seconds_held.toFixed(1)} s of {length(heard.seconds)}, by{" "}
                {heard.most_held.toFixed(1)} dB at most.
              </p>
              <ol className="figure flex flex-wrap gap-x-3">
                {heard.worst.map((m, n) => (
                  <li key={m.seconds}>
                    <button className="underline" aria-current={n === moment} onClick={() => go(n)}>
                      {length(m.seconds)}
                    </button>{" "}
                    {m.held.toFixed(1)} dB
                  </li>
                ))}
              </ol>
            </>
          )}
        </section>
      </div>
      <p className="muted">
        Heard before it is coded. Copies for listening are folded to two channels (ITU-R BS.775) and
        coded small; figures and meters are of the samples themselves.
      </p>
    </section>
  );
}

const other = (side: Side): Side => (side === "taken" ? "made" : "taken");
