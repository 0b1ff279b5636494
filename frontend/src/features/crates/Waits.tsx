import type { Schemas } from "../../api/client";

const HIGH = 72;

/** By how much each picture came late, in turn; what came in time is a line at the bottom. */
export function Waits({
  played,
  says,
  each,
  tick,
}: {
  played: Schemas["PlayedOut"];
  says: string;
  /** Milliseconds that a picture lasts. */
  each: number;
  /** The picture that is shown just now, in turn. */
  tick: number | null;
}) {
  const top = Math.max(each, played.worst);
  return (
    <figure
      className="my-2"
      aria-label={`Waits, ${says}: ${played.late} of ${played.shown} pictures late`}
    >
      <figcaption className="muted flex justify-between text-xs">
        <span>
          {says}, {played.layers} {played.layers === 1 ? "layer" : "layers"}: by how much each
          picture came late, 0 to {top.toFixed(0)} ms
        </span>
        <span>there could be {Math.round(played.could)} a second</span>
      </figcaption>
      <svg
        className="block w-full border border-base-300 bg-base-200"
        height={HIGH}
        viewBox={`0 0 ${played.waits.length} ${HIGH}`}
        preserveAspectRatio="none"
        aria-hidden
      >
        {played.waits.map((wait, n) => {
          const high = wait > 0 ? Math.max(4, (HIGH * wait) / top) : 2;
          return (
            <rect
              key={n}
              className={wait > 0 ? "fill-primary" : "fill-secondary"}
              x={n + 0.1}
              width={0.8}
              y={HIGH - high}
              height={high}
            />
          );
        })}
        {tick !== null && (
          <line
            className="stroke-accent"
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
            x1={tick + 0.5}
            x2={tick + 0.5}
            y2={HIGH}
          />
        )}
      </svg>
    </figure>
  );
}
