import type { Schemas } from "../../api/client";
import { Table } from "../../ui/Table";

type Heard = Schemas["HeardOut"];
const HIGH = 96;
const LOW_LUFS = -50;
const MOST_HELD = 12; // dB, over the whole height

/** Loudness over time, as it is taken and as it is made, and where a limiter works. */
export function LoudnessCurve({
  heard,
  target,
  at,
  to,
}: {
  heard: Heard;
  target: number | null;
  at: number;
  to: (seconds: number) => void;
}) {
  const columns = Math.max(1, heard.held.length);
  const y = (lufs: number) => (HIGH * Math.min(0, Math.max(LOW_LUFS, lufs))) / LOW_LUFS;
  const line = (levels: number[]) =>
    levels.map((level, n) => `${((n + 0.5) * columns) / levels.length},${y(level)}`).join(" ");
  const there = (e: React.MouseEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    to(((e.clientX - box.left) / box.width) * heard.seconds);
  };
  const share = heard.seconds ? Math.min(1, at / heard.seconds) : 0;
  return (
    <figure aria-label={said(heard)}>
      <figcaption className="muted flex flex-wrap justify-between gap-x-4 text-xs">
        <span>
          momentary loudness, {LOW_LUFS} to 0 LUFS: taken (thin), <b>made</b> (strong)
          {target !== null && `, ${target} LUFS (dashes)`}
        </span>
        <span>peaks held, from above: 0 to {MOST_HELD} dB</span>
      </figcaption>
      {/* The slider has keys; this is for the hand. */}
      <div
        role="presentation"
        className="relative cursor-pointer border border-base-300 bg-base-200"
        onClick={there}
      >
        <svg
          className="block w-full"
          height={HIGH}
          viewBox={`0 0 ${columns} ${HIGH}`}
          preserveAspectRatio="none"
          aria-hidden
        >
          {heard.held.map((held, n) =>
            held > 0 ? (
              <rect
                key={n}
                className="fill-primary/50"
                x={n}
                y={0}
                width={1}
                height={Math.min(HIGH, (HIGH * held) / MOST_HELD)}
              />
            ) : null,
          )}
          {target !== null && (
            <line
              x1={0}
              x2={columns}
              y1={y(target)}
              y2={y(target)}
              className="stroke-base-content/50"
              strokeDasharray="6 6"
              vectorEffect="non-scaling-stroke"
            />
          )}
          <polyline
            points={line(heard.taken.momentary)}
            fill="none"
            className="stroke-base-content/60"
            strokeWidth={1}
            vectorEffect="non-scaling-stroke"
          />
          <polyline
            points={line(heard.made.momentary)}
            fill="none"
            className="stroke-secondary"
            strokeWidth={2.5}
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <div
          className="pointer-events-none absolute inset-y-0 w-0.5 bg-primary"
          style={{ left: `${100 * share}%` }}
        />
      </div>
    </figure>
  );
}

const figure = (value: number | null, unit: string) =>
  value === null ? "silent" : `${value.toFixed(1)} ${unit}`;

const said = (heard: Heard) =>
  `Loudness over time: taken ${figure(heard.taken.loudness, "LUFS")}, ` +
  `made ${figure(heard.made.loudness, "LUFS")}`;

/** What was heard in figures, before and after. */
export function LoudnessFigures({ heard }: { heard: Heard }) {
  const sides = [heard.taken, heard.made];
  const rows: [string, string[]][] = [
    ["loudness of the whole", sides.map((s) => figure(s.loudness, "LUFS"))],
    ["loudness range", sides.map((s) => figure(s.range, "LU"))],
    ["loudest 3 s", sides.map((s) => figure(s.short_term, "LUFS"))],
    ["true peak", sides.map((s) => figure(s.true_peak, "dBTP"))],
  ];
  return (
    <Table
      label="Loudness before and after"
      columns={[{ head: "figure", hidden: true }, heard.as_mixed ? "mixed" : "taken", "made"]}
      className="w-auto"
    >
      <tbody>
        {rows.map(([name, figures]) => (
          <tr key={name}>
            <th scope="row" className="text-left font-normal">
              {name}
            </th>
            {figures.map((text, n) => (
              <td key={n} className="figure text-right">
                {text}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
