import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { useKeys } from "../../ui/keys";
import { span } from "../../ui/format";

const WIDTH = 320;

type Played = Schemas["PlayedOut"];
type Pictures = Map<number, HTMLImageElement>;

/** The file's own pictures, each shown when it came: as it was played on this machine. */
export function Replay({
  run,
  played,
  each,
  at,
}: {
  run: number;
  played: Played;
  /** Milliseconds that a picture lasts. */
  each: number;
  /** Told of the picture that is shown, in turn; null when it is over. */
  at: (tick: number | null) => void;
}) {
  const [going, setGoing] = useState(false);
  const [had, setHad] = useState(0);
  const [wrong, setWrong] = useState("");
  const shown = useRef<(HTMLCanvasElement | null)[]>([]);
  const tell = useRef(at);
  tell.current = at;
  const wanted = [...new Set(played.frames.flat())];
  const due = dueOf(played, each);
  useEffect(() => {
    if (!going) return;
    const off = new AbortController();
    void pictures(run, wanted, off.signal, setHad).then(
      (all) => play(all, off.signal),
      (error: unknown) => {
        if (off.signal.aborted) return;
        setWrong(`Its pictures could not be had: ${String(error)}`);
        setGoing(false);
      },
    );
    function play(all: Pictures, signal: AbortSignal) {
      let begun: number | null = null;
      const show = (now: number) => {
        if (signal.aborted) return;
        begun ??= now;
        const since = now - begun;
        const tick = Math.max(0, due.filter((moment) => moment <= since).length - 1);
        played.frames.forEach((layer, n) => draw(shown.current[n], all.get(layer[tick] ?? 0)));
        tell.current(tick);
        if (since >= (due.at(-1) ?? 0) + each) setGoing(false);
        else requestAnimationFrame(show);
      };
      requestAnimationFrame(show);
    }
    return () => {
      off.abort();
      tell.current(null);
    };
    // The way that is played does not change while it is mounted: each has a key of its own.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [going]);
  const turn = () => {
    setWrong("");
    setHad(0);
    setGoing(!going);
  };
  useKeys([{ key: "p", does: "play as it was played, or stop", run: turn }]);
  const late = (due.at(-1) ?? 0) - each * (played.shown - 1);
  return (
    <section aria-label="As it plays" className="mt-2">
      <div className="mb-1 flex items-center gap-3">
        <Button onClick={turn}>{going ? "Stop" : "Show it as it plays"}</Button>
        <span className="muted" role="status">
          {going && had < wanted.length
            ? `getting pictures, ${had} of ${wanted.length}`
            : `${span((each * played.shown) / 1000)} of film` +
              (late > 0 ? `, ${Math.round(late)} ms longer than it should take` : ", in time")}
        </span>
      </div>
      {wrong && <p role="alert">{wrong}</p>}
      {going && (
        <div className="flex flex-wrap gap-2">
          {played.frames.map((_, n) => (
            <canvas
              key={n}
              ref={(canvas) => {
                shown.current[n] = canvas;
              }}
              className="w-64 bg-base-300"
              role="img"
              aria-label={`layer ${n + 1}`}
            />
          ))}
        </div>
      )}
    </section>
  );
}

/** When each picture is shown, in milliseconds from the first: all waits before it delay it. */
export function dueOf(played: Pick<Played, "waits">, each: number): number[] {
  let waited = 0;
  return played.waits.map((wait, n) => {
    waited += wait;
    return n * each + waited;
  });
}

async function pictures(
  run: number,
  wanted: number[],
  signal: AbortSignal,
  had: (count: number) => void,
): Promise<Pictures> {
  const all: Pictures = new Map();
  for (const frame of wanted) {
    const image = new Image();
    image.src = `/api/runs/${run}/frames/${frame}?width=${WIDTH}`;
    await image.decode();
    if (signal.aborted) throw new Error("stopped");
    all.set(frame, image);
    had(all.size);
  }
  return all;
}

function draw(canvas: HTMLCanvasElement | null | undefined, image: HTMLImageElement | undefined) {
  if (!canvas || !image) return;
  if (canvas.width !== image.naturalWidth || canvas.height !== image.naturalHeight) {
    canvas.width = image.naturalWidth;
    canvas.height = image.naturalHeight;
  }
  canvas.getContext("2d")?.drawImage(image, 0, 0);
}
