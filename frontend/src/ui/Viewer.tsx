import { ChevronLeft, ChevronRight } from "lucide-react";
import { useEffect, useState } from "react";
import { useAddress } from "./address";
import { fps, timecode } from "./format";
import { Button } from "./Button";

/**
 * Steps through a file frame by frame; pictures come from the server for any codec, at their
 * display aspect.
 */
export function useFrames(frames: number, rate: string | null, first = 0) {
  const [written, write] = useAddress("frame", String(first));
  const last = Math.max(0, frames - 1);
  const within = (n: number) => Math.max(0, Math.min(last, n));
  const frame = within(Number.parseInt(written, 10) || 0);
  const to = (n: number) => write(String(within(n)));
  const second = Math.round(fps(rate));
  const keys = [
    { key: "ArrowRight", does: "one frame on", run: () => to(frame + 1) },
    { key: "ArrowLeft", does: "one frame back", run: () => to(frame - 1) },
    { key: "l", does: "one second on", run: () => to(frame + second) },
    { key: "j", does: "one second back", run: () => to(frame - second) },
    { key: "Home", does: "first frame", run: () => to(0) },
    { key: "End", does: "last frame", run: () => to(last) },
  ];
  return { frame, to, last, keys };
}

export function Steps({
  frame,
  to,
  last,
  rate,
}: {
  frame: number;
  to: (n: number) => void;
  last: number;
  rate: string | null;
}) {
  return (
    <div className="flex items-center gap-2 py-1">
      <Button aria-label="one frame back" onClick={() => to(frame - 1)}>
        <ChevronLeft size={14} />
      </Button>
      <input
        type="range"
        className="range range-xs grow"
        aria-label="frame"
        min={0}
        max={last}
        value={frame}
        onChange={(e) => to(Number(e.target.value))}
      />
      <Button aria-label="one frame on" onClick={() => to(frame + 1)}>
        <ChevronRight size={14} />
      </Button>
      <span className="figure whitespace-nowrap">
        {timecode(frame, rate)}{" "}
        <span className="muted">
          frame {frame} of {last + 1}
        </span>
      </span>
    </div>
  );
}

/** A picture that keeps the last one until the next has come, and says so when none comes. */
export function Still({
  src,
  alt,
  className = "",
  waits = "",
}: {
  src: string;
  alt: string;
  className?: string;
  /** What is said until the picture has come, where that takes a while; the last one is faded. */
  waits?: string;
}) {
  const [shown, setShown] = useState(src);
  const [failed, setFailed] = useState(false);
  const [there, setThere] = useState(false);
  const waiting = waits && (!there || shown !== src);
  useEffect(() => {
    const next = new Image();
    let live = true;
    next.onload = () => {
      if (live) {
        setShown(src);
        setFailed(false);
      }
    };
    next.onerror = () => {
      if (live) setFailed(true);
    };
    next.src = src;
    return () => {
      live = false;
    };
  }, [src]);
  return (
    <div className={`grey-wall flex items-center justify-center p-1 ${className}`}>
      {waiting && !failed && (
        <span role="status" className="chip absolute top-1 left-1 z-10">
          {waits}
        </span>
      )}
      {failed ? (
        <p className="bg-base-100 p-2">
          This picture could not be made. Step on, or look at the file's state.
        </p>
      ) : (
        <img
          src={shown}
          alt={alt}
          data-src={shown}
          aria-busy={!there || shown !== src}
          className={`max-h-full max-w-full ${waiting ? "opacity-40" : ""}`}
          onLoad={() => setThere(true)}
        />
      )}
    </div>
  );
}
