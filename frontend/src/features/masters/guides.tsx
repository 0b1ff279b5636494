export const SHAPES: Record<string, number> = {
  "4:3": 4 / 3,
  "1:1": 1,
  "9:16": 9 / 16,
  "14:9": 14 / 9,
  "1.85:1": 1.85,
  "2.39:1": 2.39,
};
export const GUIDES = ["none", "safe areas", ...Object.keys(SHAPES)];

const WIDEST = 10;

/** A shape by its figure, as "2.2:1"; none where it is no such. */
export function shapeOf(kind: string): number | undefined {
  const free = Number(/^(\d{1,2}(?:\.\d{1,3})?):1$/.exec(kind)?.[1] ?? 0);
  return SHAPES[kind] ?? (free >= 1 / WIDEST && free <= WIDEST ? free : undefined);
}

/**
 * Lines over the picture: EBU R 95 keeps action 3.5 % and graphics 5 % from each edge; or what
 * another shape would keep.
 */
export function Guides({ kind, aspect }: { kind: string; aspect: number }) {
  const shape = shapeOf(kind);
  if (shape === undefined && kind !== "safe areas") return null;
  const wide = shape ? Math.min(100, (100 * shape) / aspect) : 0;
  const high = shape ? Math.min(100, (100 * aspect) / shape) : 0;
  const rect = (inset: number, dash?: string) => (
    <rect
      x={inset}
      y={inset}
      width={100 - 2 * inset}
      height={100 - 2 * inset}
      fill="none"
      stroke="#fff"
      strokeWidth={1}
      strokeDasharray={dash}
      vectorEffect="non-scaling-stroke"
    />
  );
  return (
    <svg
      className="pointer-events-none absolute inset-0 h-full w-full mix-blend-difference"
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      role="img"
      aria-label={
        shape ? `what ${kind} would keep` : "safe areas for action and graphics, EBU R 95"
      }
    >
      {shape ? (
        <rect
          x={(100 - wide) / 2}
          y={(100 - high) / 2}
          width={wide}
          height={high}
          fill="none"
          stroke="#fff"
          strokeWidth={2}
          vectorEffect="non-scaling-stroke"
        />
      ) : (
        <>
          {rect(3.5)}
          {rect(5, "6 4")}
        </>
      )}
    </svg>
  );
}
