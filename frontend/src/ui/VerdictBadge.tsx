import clsx from "clsx";
import type { Schemas } from "../api/client";

type Verdict = Schemas["StageOut"]["verdict"];
/** A verdict is a shape and a word; colour only helps. */
const SHAPES: Record<Verdict, { mark: string; look: string }> = {
  meets: { mark: "M3 9.5 7 13.5 15 4.5", look: "border-solid border-success text-success" },
  advice: { mark: "M9 3V10M9 13.2V14.8", look: "border-dashed border-warning text-warning" },
  breaks: {
    mark: "M4 4 14 14M14 4 4 14",
    look: "border-double border-4 border-error text-error -rotate-1",
  },
  unproven: { mark: "M4 9H5.5M8.3 9H9.8M12.5 9H14", look: "border-dotted border-base-content/70" },
};

export function VerdictBadge({ verdict, small = false }: { verdict: Verdict; small?: boolean }) {
  const { mark, look } = SHAPES[verdict];
  return (
    <span
      className={clsx(
        "inline-flex items-center gap-1 border-2 px-1",
        "font-semibold leading-tight whitespace-nowrap",
        look,
        small && "text-xs",
      )}
    >
      <svg viewBox="0 0 18 18" width={small ? 10 : 12} height={small ? 10 : 12} aria-hidden>
        <path d={mark} fill="none" stroke="currentColor" strokeWidth="2.6" strokeLinecap="square" />
      </svg>
      {verdict}
    </span>
  );
}

/** A deliverable's verdicts, counted, as one narrow strip. */
export function Strip({ strip }: { strip: Schemas["StripOut"] }) {
  const parts = (["meets", "advice", "unproven", "breaks"] as const).filter((k) => strip[k] > 0);
  const total = parts.reduce((n, k) => n + strip[k], 0) || 1;
  const fills = {
    meets: "bg-success",
    advice: "bg-[repeating-linear-gradient(45deg,var(--color-warning)_0_3px,transparent_3px_6px)]",
    unproven:
      "bg-[repeating-linear-gradient(90deg,var(--color-base-content)_0_1px,transparent_1px_5px)]",
    breaks: "bg-error",
  };
  const words = parts.map((k) => `${strip[k]} ${k}`).join(", ");
  return (
    <span className="inline-flex items-center gap-2" title={`${strip.name}: ${words}`}>
      <span
        className="inline-flex h-2.5 w-24 border border-base-content/50"
        role="img"
        aria-label={words}
      >
        {parts.map((k) => (
          <span key={k} className={fills[k]} style={{ width: `${(100 * strip[k]) / total}%` }} />
        ))}
      </span>
      <span className="text-xs">{strip.verdict}</span>
    </span>
  );
}
