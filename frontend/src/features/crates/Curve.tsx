import type { Schemas } from "../../api/client";

const HIGH = 64;

/** A measure over the time of a file, with the frame that is shown and the worst ones. */
export function Curve({
  measure,
  each,
  first,
  frames,
  frame,
  worst,
  to,
}: {
  measure: Schemas["MeasureOut"];
  each: number;
  first: number;
  frames: number;
  frame: number;
  worst: number[];
  to: (n: number) => void;
}) {
  const { low, high } = bounds(measure);
  const y = (value: number) => HIGH * (1 - (Math.min(high, value) - low) / (high - low));
  const at = (n: number) => (100 * (n - first + 0.5)) / frames;
  const points = measure.curve.flatMap((value, n) => [
    `${Math.min(frames, n * each)},${y(value)}`,
    `${Math.min(frames, (n + 1) * each)},${y(value)}`,
  ]);
  const there = (e: React.MouseEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    to(first + Math.floor(((e.clientX - box.left) / box.width) * frames));
  };
  const written = (value: number) => `${value.toFixed(measure.digits)} ${measure.unit}`.trim();
  return (
    <figure
      className="my-1"
      aria-label={
        `${measure.label} over time: mean ${written(measure.mean)}, ` +
        `worst ${written(measure.worst)}`
      }
    >
      <figcaption className="figure muted text-right text-xs">
        {measure.label}, {written(low)} to {written(high)}
      </figcaption>
      {/* The steps and the list of worst moments have keys and fields; this is for the hand. */}
      <div
        role="presentation"
        className="relative cursor-pointer border border-base-300 bg-base-200"
        onClick={there}
      >
        <svg
          className="block w-full"
          height={HIGH}
          viewBox={`0 0 ${frames} ${HIGH}`}
          preserveAspectRatio="none"
          aria-hidden
        >
          <polygon
            className="fill-secondary/40"
            points={[`0,${HIGH}`, ...points, `${frames},${HIGH}`].join(" ")}
          />
          <polyline
            points={points.join(" ")}
            fill="none"
            className="stroke-secondary"
            strokeWidth={1.5}
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        {worst.map((n) => (
          <span
            key={n}
            className="moment pointer-events-none absolute bottom-0 text-primary"
            style={{ left: `${at(n)}%` }}
            aria-hidden
          >
            ▾
          </span>
        ))}
        <div
          className="pointer-events-none absolute inset-y-0 w-0.5 bg-primary"
          style={{ left: `${at(frame)}%` }}
        />
      </div>
    </figure>
  );
}

/** From a little under the worst to a little over the best, or a curve would be a flat line. */
function bounds(measure: Schemas["MeasureOut"]) {
  // Frames without any error would press all others to the floor.
  const hurt = measure.curve.filter((value) => measure.unit !== "dB" || value < 100);
  const most = Math.max(measure.worst, ...hurt);
  const least = measure.worst;
  const room = Math.max((most - least) / 10, measure.unit === "dB" ? 0.5 : 0.002);
  return { low: Math.max(0, least - room), high: most + room };
}
