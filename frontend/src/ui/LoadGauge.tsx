import { bytes } from "./format";

type Range = { least: number; most: number };
/** What sizes buy, in bytes: below `poor` most things show loss, from `clean` on hardly any. */
export type Buys = { poor: number | null; clean: number | null };

/** Where a size lies against its cap, in a word. */
export function zone(size: number, cap: number | null, range: Range | null): string {
  if (!cap) return "no cap";
  if (range && range.least <= cap && range.most > cap) return "may go over the cap";
  const share = (range?.most ?? size) / cap;
  if (share > 1) return "over the cap";
  if (share > 0.97) return "brim-full";
  return share > 0.6 ? "well filled" : "room left";
}

const FULL = 74;
const FLOOR = 88;

/** A level of the crate, cut off a little above its cap. */
function height(size: number, cap: number): number {
  return Math.min(1.08, size / cap) * FULL;
}

/**
 * A crate that fills up to its cap. Zones are told by hatching and word. Where the size follows
 * from the pictures, it is a range: what is filled at least, and a dashed level it may rise to.
 */
export function LoadGauge({
  size,
  cap,
  of,
  measured,
  range = null,
  buys = null,
}: {
  size: number;
  cap: number | null;
  of: string;
  measured: boolean;
  range?: Range | null;
  buys?: Buys | null;
}) {
  const word = zone(size, cap, range);
  const level = cap ? height(range?.least ?? size, cap) : 0;
  const brim = word === "brim-full" || word === "over the cap";
  const limits = range ? `${bytes(range.least)} to ${bytes(range.most)}` : "";
  return (
    <figure
      className="w-36 shrink-0 text-center"
      aria-label={`Load: ${limits || bytes(size)}${cap ? ` of ${bytes(cap)}` : ""}, ${word}`}
    >
      <svg viewBox="0 0 110 96" className="w-full" aria-hidden>
        <defs>
          <pattern id="slack" width="6" height="6" patternUnits="userSpaceOnUse">
            <path d="M0 6 6 0" stroke="currentColor" strokeOpacity=".5" strokeWidth="1" />
          </pattern>
          <pattern id="brim" width="4" height="4" patternUnits="userSpaceOnUse">
            <path d="M0 4 4 0M0 0 4 4" stroke="currentColor" strokeOpacity=".75" strokeWidth="1" />
          </pattern>
        </defs>
        {cap ? (
          <g transform={`translate(12 ${FLOOR - level})`}>
            <rect width="86" height={level} fill="var(--color-base-300)" />
            <rect width="86" height={level} fill={brim ? "url(#brim)" : "url(#slack)"} />
          </g>
        ) : null}
        {cap && range ? (
          <rect
            x="12"
            y={FLOOR - height(range.most, cap)}
            width="86"
            height={height(range.most, cap)}
            fill="none"
            stroke="currentColor"
            strokeDasharray="2 3"
          />
        ) : null}
        {cap && buys ? <Bought buys={buys} cap={cap} /> : null}
        <path d="M10 10V90H100V10" fill="none" stroke="currentColor" strokeWidth="3" />
        <path d="M10 50H100" stroke="currentColor" strokeOpacity=".35" strokeWidth="1" />
        {cap ? (
          <path d="M4 14H106" stroke="var(--color-primary)" strokeWidth="2" strokeDasharray="5 3" />
        ) : null}
      </svg>
      <figcaption className="leading-tight">
        {range ? (
          <span className="figure font-semibold">
            <span className="whitespace-nowrap">{bytes(range.least)} to</span>{" "}
            <span className="whitespace-nowrap">{bytes(range.most)}</span>
          </span>
        ) : (
          <span className="figure font-semibold">{bytes(size)}</span>
        )}{" "}
        {measured ? "measured" : "predicted"}
        <br />
        {range ? (
          <>
            <span>the pictures decide</span>
            <br />
          </>
        ) : null}
        {cap ? (
          <span className="figure">
            cap {bytes(cap)} {of}
          </span>
        ) : null}{" "}
        <span>{word}</span>
      </figcaption>
    </figure>
  );
}

/** Levels on the wall of the crate, as far as they lie in it. */
function Bought({ buys, cap }: { buys: Buys; cap: number }) {
  const levels = [
    { name: "hardly any loss", size: buys.clean },
    { name: "loss shows", size: buys.poor },
  ];
  return levels.map(({ name, size }) => {
    if (size === null || size > cap) return null;
    const y = FLOOR - height(size, cap);
    return (
      <g key={name}>
        <path d={`M70 ${y}H98`} stroke="currentColor" strokeWidth="2" />
        <text
          x="96"
          y={y - 3}
          fontSize="9"
          textAnchor="end"
          fill="currentColor"
          stroke="var(--color-base-100)"
          strokeWidth="4"
          paintOrder="stroke"
        >
          {name}
        </text>
      </g>
    );
  });
}
