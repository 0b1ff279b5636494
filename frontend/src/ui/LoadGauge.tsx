import { bytes } from "./format";

/** A crate that fills up to its cap. Zones are told by hatching and word. */
export function LoadGauge({
  size,
  cap,
  of,
  measured,
}: {
  size: number;
  cap: number | null;
  of: string;
  measured: boolean;
}) {
  const share = cap ? size / cap : 0;
  const zone = !cap
    ? "no cap"
    : share > 1
      ? "over the cap"
      : share > 0.97
        ? "brim-full"
        : share > 0.6
          ? "well filled"
          : "room left";
  const height = Math.min(1, share) * 74;
  return (
    <figure
      className="w-36 shrink-0 text-center"
      aria-label={`Load: ${bytes(size)}${cap ? ` of ${bytes(cap)}` : ""}, ${zone}`}
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
          <rect x="12" y={88 - height} width="86" height={height} fill="var(--color-base-300)" />
        ) : null}
        {cap ? (
          <rect
            x="12"
            y={88 - height}
            width="86"
            height={height}
            fill={share > 0.97 ? "url(#brim)" : "url(#slack)"}
          />
        ) : null}
        <path d="M10 10V90H100V10" fill="none" stroke="currentColor" strokeWidth="3" />
        <path d="M10 50H100" stroke="currentColor" strokeOpacity=".35" strokeWidth="1" />
        {cap ? (
          <path d="M4 14H106" stroke="var(--color-primary)" strokeWidth="2" strokeDasharray="5 3" />
        ) : null}
      </svg>
      <figcaption className="leading-tight">
        <span className="figure font-semibold">{bytes(size)}</span>{" "}
        {measured ? "measured" : "predicted"}
        <br />
        {cap ? (
          <span className="figure">
            cap {bytes(cap)} {of}
          </span>
        ) : null}{" "}
        <span>{zone}</span>
      </figcaption>
    </figure>
  );
}
