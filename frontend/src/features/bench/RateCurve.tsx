import type { Schemas } from "../../api/client";
import { bitRate } from "../../ui/format";
import { along, nearest, within } from "./rates";

const WIDE = 1000;
const HIGH = 180;
type Learned = Schemas["LearnedOut"];

/** Quality over rate, with the zones in which loss hardly shows, and shows in most things. */
export function RateCurve({
  learned,
  at,
  to,
}: {
  learned: Learned;
  at: number;
  to: (n: number) => void;
}) {
  const { points, planned, cap, clean, poor, allowed } = learned;
  const values = points.map((p) => p.xpsnr);
  const low = Math.floor(Math.min(...values, poor.quality) - 1);
  const high = Math.ceil(Math.max(...values, clean.quality) + 1);
  const x = (rate: number) => along(points, rate) * WIDE;
  const y = (value: number) => (HIGH * (high - value)) / (high - low);
  const there = (e: React.MouseEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    to(Math.round(((e.clientX - box.left) / box.width) * (points.length - 1)));
  };
  const marks = [
    { name: "as planned", rate: planned.bit_rate },
    ...(cap ? [{ name: "fills the cap", rate: cap.bit_rate }] : []),
    ...(allowed[0] ? [{ name: "least allowed", rate: allowed[0] }] : []),
    ...(allowed[1] ? [{ name: "most allowed", rate: allowed[1] }] : []),
  ].filter((mark) => within(points, mark.rate));
  const shown = points[nearest(points, at)];
  return (
    <figure
      className="my-2"
      aria-label={`Quality over rate: at ${bitRate(at)} XPSNR ${shown?.xpsnr.toFixed(1)} dB`}
    >
      <figcaption className="figure muted flex justify-between text-xs">
        <span>
          XPSNR, {low} to {high} dB
        </span>
        <span>
          {bitRate(points[0]?.bit_rate ?? 0)} to {bitRate(points.at(-1)?.bit_rate ?? 0)}, twice the
          rate as wide everywhere
        </span>
      </figcaption>
      {/* The field below has keys; this is for the hand. */}
      <div
        role="presentation"
        className="relative cursor-pointer border border-base-300 bg-base-100"
        onClick={there}
      >
        <svg
          className="block w-full"
          height={HIGH}
          viewBox={`0 0 ${WIDE} ${HIGH}`}
          preserveAspectRatio="none"
          aria-hidden
        >
          <rect width={WIDE} height={y(clean.quality)} className="fill-base-200" />
          <rect
            y={y(poor.quality)}
            width={WIDE}
            height={HIGH - y(poor.quality)}
            className="fill-base-300"
          />
          <polyline
            points={points.map((p) => `${x(p.bit_rate)},${y(p.xpsnr)}`).join(" ")}
            fill="none"
            className="stroke-secondary"
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <span className="pointer-events-none absolute left-1 top-0 text-xs" aria-hidden>
          hardly any loss shows
        </span>
        <span className="pointer-events-none absolute bottom-0 left-1 text-xs" aria-hidden>
          most things show loss
        </span>
        {marks.map((mark, n) => (
          <span
            key={mark.name}
            className="rate-mark pointer-events-none absolute inset-y-0 text-xs"
            style={{
              left: `${along(points, mark.rate) * 100}%`,
              paddingTop: `${1.25 + n * 1.1}rem`, // one below the other: they may lie close
            }}
            aria-hidden
          >
            {mark.name}
          </span>
        ))}
        <div
          className="pointer-events-none absolute inset-y-0 w-0.5 bg-primary"
          style={{ left: `${along(points, at) * 100}%` }}
        />
      </div>
    </figure>
  );
}
