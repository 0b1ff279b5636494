import { useQuery } from "@tanstack/react-query";
import { memo, useEffect, useRef } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { masterFrame } from "../../api/pictures";
import { fps, timecode } from "../../ui/format";
import type { Marks } from "./Deck";
import { keys } from "../../api/keys";

type Master = Schemas["MasterPage"];
type Event = Schemas["EventOut"];
const STRIP = 12;
const MOST_MARKS = 400;
// A letter and a pattern for each kind: never colour alone.
const KINDS: Record<string, { letter: string; fill: string }> = {
  black: { letter: "B", fill: "ev-black" },
  frozen: { letter: "F", fill: "ev-frozen" },
  silent: { letter: "S", fill: "ev-silent" },
  tone: { letter: "T", fill: "ev-tone" },
  scan: { letter: "I", fill: "ev-scan" },
  flash: { letter: "!", fill: "ev-flash" },
  levels: { letter: "L", fill: "ev-levels" },
};

export function TimeLine({
  master,
  frame,
  to,
  marks,
  zoom = 1,
  children,
}: {
  master: Master;
  frame: number;
  to: (n: number) => void;
  marks: Marks;
  /** How many times as wide as the page it is drawn. */
  zoom?: number;
  /** What lies over it. */
  children?: React.ReactNode;
}) {
  const window = useRef<HTMLDivElement>(null);
  const traces = useQuery({
    queryKey: keys.masters.traces(master.id, master.state),
    enabled: master.state === "ready",
    queryFn: () =>
      unwrap(api.GET("/api/masters/{id}/traces", { params: { path: { id: master.id } } })),
  });
  const rate = fps(master.rate);
  const total = master.has_picture && master.frames ? master.frames / rate : (master.seconds ?? 1);
  const frames = master.has_picture ? master.frames : Math.ceil(total * rate);
  const share = (seconds: number) => `${Math.max(0, Math.min(100, (100 * seconds) / total))}%`;
  const there = (e: React.MouseEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    to(Math.floor(((e.clientX - box.left) / box.width) * total * rate));
  };
  useEffect(() => {
    const seen = window.current;
    if (!seen) return;
    const at = ((frame + 0.5) / frames) * seen.scrollWidth;
    if (at < seen.scrollLeft || at > seen.scrollLeft + seen.clientWidth)
      seen.scrollLeft = at - seen.clientWidth / 2;
  }, [frame, frames, zoom]);
  const kinds = [...new Set(master.events.map((e) => e.kind))];
  return (
    <section aria-label="Time line" className="mt-1">
      {/* The deck has keys and a field for every place; this is for the hand. */}
      <div
        ref={window}
        className="overflow-x-auto"
        role="region"
        aria-label="what of it is drawn"
        tabIndex={zoom > 1 ? 0 : undefined}
      >
        <div
          role="presentation"
          className="relative cursor-pointer"
          style={{ width: `${100 * zoom}%` }}
          onClick={there}
        >
          {master.has_picture && <Strip master={master} count={STRIP * zoom} />}
          {kinds.map((kind) => (
            <Lane
              key={kind}
              kind={kind}
              events={master.events.filter((e) => e.kind === kind)}
              share={share}
              to={to}
              master={master}
            />
          ))}
          {traces.data?.picture && <Rate trace={traces.data.picture} total={total} />}
          {traces.data?.tracks.map((t, n) => (
            <Wave key={n} track={n + 1} trace={t} total={total} />
          ))}
          {(marks.first !== null || marks.last !== null) && (
            <div
              className="between-marks pointer-events-none absolute inset-y-0"
              style={{
                left: share((marks.first ?? 0) / rate),
                width: share(((marks.last ?? frames - 1) + 1 - (marks.first ?? 0)) / rate),
              }}
            />
          )}
          <div
            className="pointer-events-none absolute inset-y-0 w-0.5 bg-primary"
            style={{ left: share((frame + 0.5) / rate) }}
          />
          {children}
        </div>
      </div>
      <div className="figure flex justify-between text-xs">
        <span>{timecode(0, master.rate, master.start_frame, master.drop_frame)}</span>
        <span>{timecode(frames, master.rate, master.start_frame, master.drop_frame)}</span>
      </div>
      {master.state === "ready" && master.events.length === 0 && (
        <p className="muted">
          Nothing was found at any one place:{" "}
          {[
            ...(master.has_picture && !master.still
              ? ["no black", "no standstill", "no flashes"]
              : []),
            ...(traces.data?.tracks.length ? ["no silence", "no tone"] : []),
          ].join(", ") || "one image has no time line"}
          .
        </p>
      )}
      {master.events.length > 0 && (
        <details className="mt-1">
          <summary className="cursor-pointer font-semibold">
            Found at {master.events.length} {master.events.length === 1 ? "place" : "places"}
          </summary>
          <ul className="max-h-48 overflow-auto">
            {master.events.slice(0, MOST_MARKS).map((e, n) => (
              <li key={n}>
                <button className="hover:underline" onClick={() => to(start(e, rate))}>
                  <Letter kind={e.kind} />{" "}
                  <span className="figure">
                    {timecode(start(e, rate), master.rate, master.start_frame, master.drop_frame)}
                  </span>{" "}
                  {e.kind}: {e.what}
                  {e.track ? `, sound track ${e.track}` : ""}
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

const start = (e: Event, rate: number) => e.first ?? Math.floor(e.start * rate);

function Letter({ kind }: { kind: string }) {
  return (
    <span
      className={`ev inline-block w-4 text-center text-xs font-bold ${KINDS[kind]?.fill ?? ""}`}
      aria-hidden
    >
      {KINDS[kind]?.letter}
    </span>
  );
}

const Strip = memo(function Strip({ master, count }: { master: Master; count: number }) {
  const places = Array.from({ length: master.still ? 1 : count }, (_, n) =>
    Math.floor(((n + 0.5) * master.frames) / count),
  );
  return (
    <div className="grey-wall flex gap-px overflow-hidden" aria-hidden>
      {places.map((n, k) => (
        <img
          key={k}
          className="min-w-0 grow basis-0 object-cover"
          loading="lazy"
          alt=""
          src={masterFrame(master, n, 160)}
        />
      ))}
    </div>
  );
});

function Lane({
  kind,
  events,
  share,
  to,
  master,
}: {
  kind: string;
  events: Event[];
  share: (s: number) => string;
  to: (n: number) => void;
  master: Master;
}) {
  const rate = fps(master.rate);
  const at = (e: Event) =>
    timecode(start(e, rate), master.rate, master.start_frame, master.drop_frame);
  return (
    <div className="relative h-4 border-b border-base-300 bg-base-200">
      <span className="chip lane-name pointer-events-none absolute z-10">{kind}</span>
      {events.slice(0, MOST_MARKS).map((e, n) => (
        <button
          key={n}
          className={`ev absolute inset-y-0.5 min-w-1 ${KINDS[kind]?.fill ?? ""}`}
          style={{ left: share(e.start), width: share(e.end - e.start) }}
          tabIndex={-1}
          title={`${e.kind}: ${e.what}`}
          aria-label={`${e.kind} at ${at(e)}`}
          onClick={(click) => {
            click.stopPropagation();
            to(start(e, rate));
          }}
        />
      ))}
    </div>
  );
}

const Rate = memo(function Rate({
  trace,
  total,
}: {
  trace: Schemas["PictureTrace"];
  total: number;
}) {
  const most = Math.max(1, ...trace.bits);
  return (
    <figure
      className="relative border-b border-base-300 bg-base-200"
      aria-label={`picture bit rate over time, at most ${(most / 1e6).toFixed(1)} Mb/s`}
    >
      <svg
        className="block h-8 w-full"
        viewBox={`0 0 ${total} 1`}
        preserveAspectRatio="none"
        aria-hidden
      >
        {trace.bits.map((b, n) => (
          <rect
            key={n}
            x={n * trace.step}
            y={1 - b / most}
            width={trace.step}
            height={b / most}
            className="fill-accent stroke-base-200"
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      <figcaption className="chip figure absolute top-0.5 left-0.5 z-10 !text-[10px] leading-3">
        {(most / 1e6).toFixed(1)} Mb/s
      </figcaption>
    </figure>
  );
});

const Wave = memo(function Wave({
  track,
  trace,
  total,
}: {
  track: number;
  trace: Schemas["TrackTrace"];
  total: number;
}) {
  if (!trace.channels.length) return null;
  const high = trace.channels.length > 2 ? 18 : 26;
  const loudest = Math.max(-120, ...trace.momentary);
  // Momentary loudness from -60 to 0 LUFS over the height of the lane.
  const line = trace.momentary
    .map((m, n) => `${(n + 0.5) * trace.step},${Math.max(0, Math.min(1, -m / 60))}`)
    .join(" ");
  return (
    <figure
      className="relative border-b border-base-300 bg-base-200"
      aria-label={
        `sound track ${track}: ${trace.channels.length} channels, ` +
        `loudest 400 ms ${loudest.toFixed(1)} LUFS`
      }
    >
      {trace.channels.map((c, n) => (
        <svg
          key={n}
          className="block w-full"
          height={high}
          viewBox={`0 -100 ${total} 200`}
          preserveAspectRatio="none"
          aria-hidden
        >
          <polygon
            className="fill-secondary"
            points={[
              ...(c.high ?? []).map((v, k) => `${k * trace.step},${-Math.max(v, 1)}`),
              ...(c.low ?? []).map((v, k) => `${k * trace.step},${-Math.min(v, -1)}`).reverse(),
            ].join(" ")}
          />
        </svg>
      ))}
      <svg
        className="pointer-events-none absolute inset-0 h-full w-full"
        viewBox={`0 0 ${total} 1`}
        preserveAspectRatio="none"
        aria-hidden
      >
        <polyline
          points={line}
          fill="none"
          className="stroke-primary"
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="chip figure absolute top-0.5 left-0.5 z-10 !text-[10px] leading-3">
        sound {track}, loudest {loudest > -100 ? `${loudest.toFixed(1)} LUFS` : "silent"}
      </figcaption>
    </figure>
  );
});
