import { useCallback, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useStopViewing, useView } from "../../api/mutations/crates";
import { useViewing } from "../../api/queries";
import { Button } from "../../ui/Button";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import { type Side, useListening } from "../bench/listen";
import { Going, Troubles } from "./Going";
import { drawn, type Look, LOOKS, useDrawn } from "./stacked";

type Viewed = Schemas["ViewedOut"];
const SIDES: Side[] = ["taken", "made"];
const SAID: Record<Side, string> = { taken: "through the route", made: "deliverable" };
const EVEN = { taken: 1, made: 1 };
const BUSY = ["waiting", "viewing", "stopping"];

type Frames = { frame: number; to: (frame: number) => void };

/** A finished file and what went into its encoder, played together. */
export function Play({ run, frame, to }: { run: number } & Frames) {
  const found = useViewing(run);
  const view = useView(run);
  const stop = useStopViewing(run);
  if (found.isPending) return <Loading what="what can be played" />;
  if (!found.data) return <Problem error={found.error} again={() => void found.refetch()} />;
  const { state, hindrance, there } = found.data;
  const busy = BUSY.includes(state);
  const cleared = state === "done" && !there;
  return (
    <section aria-label="Played together" className="mb-2">
      {there && !busy && (
        <Player key={found.data.id} run={run} found={found.data} {...{ frame, to }} />
      )}
      <div className="my-1 flex flex-wrap items-center gap-3">
        {busy && (
          <Going
            topic="viewing"
            found={found.data}
            working="viewing"
            label="share of the copy made"
            said={said}
            stop={stop}
          />
        )}
        {!busy && !there && !hindrance && (
          <>
            <Button disabled={view.isPending} onClick={() => view.mutate()}>
              Make a copy of both to play
            </Button>
            <span className="muted">
              {cleared
                ? "The copy was cleared away."
                : "Both pictures in one small file, and both sounds: they cannot run apart."}
            </span>
          </>
        )}
        {state === "cancelled" && <span role="status">Making it was stopped.</span>}
      </div>
      {view.isError && <Problem error={view.error} />}
      <Troubles found={found.data} failed="It could not be made" />
    </section>
  );
}

const said = (progress: Schemas["Progress"]) => `${Math.round(100 * progress.share)} % made`;

function Player({ run, found, frame, to }: { run: number; found: Viewed } & Frames) {
  const video = useRef<HTMLVideoElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [look, setLook] = useState<Look>("beside");
  const [share, setShare] = useState(0.5);
  const [side, setSide] = useState<Side>("made");
  const rate = found.rate ?? 25;
  const sound = found.sides ? side : "made";
  const { playing, toggle } = useListening(video, sound, EVEN);
  const at = useRef(frame);
  const size: [number, number] = [found.width, found.height];
  const seen = useCallback(
    (seconds: number) => {
      at.current = found.first + Math.round(seconds * rate);
    },
    [found.first, rate],
  );
  useDrawn(video, canvas, size, { look, share, lower: side === "made" }, seen);
  useEffect(() => {
    // The middle of a frame, or a rounded time could be in the one before.
    const wanted = (frame - found.first + 0.5) / rate;
    if (video.current && !playing && at.current !== frame) video.current.currentTime = wanted;
  }, [frame, playing, found.first, rate]);
  const first = useRef(true);
  const begin = () => {
    if (!first.current || !video.current) return;
    first.current = false;
    video.current.currentTime = (frame - found.first + 0.5) / rate;
  };
  const press = () => {
    toggle();
    if (playing) to(at.current);
  };
  const change = () => setSide(side === "made" ? "taken" : "made");
  const next = () => setLook(LOOKS[(LOOKS.indexOf(look) + 1) % LOOKS.length] ?? "beside");
  useKeys([
    { key: " ", does: "play or stop", run: press },
    { key: "b", does: "hear (one at a time: see) the other", run: change },
    { key: "v", does: "next way to see both", run: next },
  ]);
  const [width, height] = drawn(look, ...size);
  return (
    <>
      <video
        ref={video}
        // One that is not displayed gives no frames.
        className="pointer-events-none absolute size-px opacity-0"
        aria-hidden
        preload="auto"
        src={`/api/runs/${run}/viewing/copy`}
        onLoadedData={begin}
      />
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${look}: ${SAID.taken} and ${SAID.made}`}
        className="grey-wall mx-auto max-h-[60vh] max-w-full"
        width={width}
        height={height}
      />
      <div className="my-1 flex flex-wrap items-center gap-3">
        <Button onClick={press}>{playing ? "Stop" : "Play"}</Button>
        <Group label="How both are seen" values={[...LOOKS]} value={look} set={setLook} />
        {look === "wipe" && (
          <input
            type="range"
            className="range range-xs w-48"
            aria-label="where one gives way to the other"
            min={0}
            max={1}
            step={0.01}
            value={share}
            onChange={(e) => setShare(Number(e.target.value))}
          />
        )}
        {(found.sides || look === "one at a time") && (
          <Group
            label={look === "one at a time" ? "What is seen and heard" : "What is heard"}
            values={SIDES}
            value={side}
            set={setSide}
            said={(one) => SAID[one]}
          />
        )}
        <span className="muted">
          {!found.sound && "The file has no sound. "}
          {found.sound && !found.sides && "The sound is copied: it is the same. "}
          Coded small for play: judge single frames in the other views.
        </span>
      </div>
    </>
  );
}

/** One of several, each a button. */
function Group<Value extends string>({
  label,
  values,
  value,
  set,
  said = (one) => one,
}: {
  label: string;
  values: Value[];
  value: Value;
  set: (value: Value) => void;
  said?: (value: Value) => string;
}) {
  return (
    <div role="group" aria-label={label} className="join">
      {values.map((one) => (
        <button
          key={one}
          className={`btn join-item btn-sm ${value === one ? "btn-active" : ""}`}
          aria-pressed={value === one}
          onClick={() => set(one)}
        >
          {said(one)}
        </button>
      ))}
    </div>
  );
}
