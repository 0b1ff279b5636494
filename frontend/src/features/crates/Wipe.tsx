import { useState } from "react";
import { Still } from "../../ui/Viewer";

/** Two pictures over each other, parted by an edge that is moved. */
export function Wipe({
  before,
  after,
  names,
}: {
  before: string;
  after: string;
  names: [string, string];
}) {
  const [edge, setEdge] = useState(50);
  const follow = (e: React.PointerEvent<HTMLElement>) => {
    if (e.buttons !== 1) return;
    const box = e.currentTarget.getBoundingClientRect();
    setEdge(Math.max(0, Math.min(100, (100 * (e.clientX - box.left)) / box.width)));
  };
  return (
    <figure>
      <div
        role="presentation"
        className="relative mx-auto aspect-video max-h-[70vh] cursor-ew-resize touch-none"
        onPointerDown={follow}
        onPointerMove={follow}
      >
        <Still className="pointer-events-none h-full" src={before} alt={names[0]} />
        <div
          className="pointer-events-none absolute inset-0"
          style={{ clipPath: `inset(0 0 0 ${edge}%)` }}
        >
          <Still className="h-full" src={after} alt={names[1]} />
        </div>
        <div
          className="pointer-events-none absolute inset-y-0 w-0.5 bg-primary"
          style={{ left: `${edge}%` }}
        />
      </div>
      <figcaption className="flex items-center gap-3">
        <b>{names[0]}</b>
        <input
          type="range"
          className="range range-xs grow"
          aria-label="edge between the pictures, in per cent from the left"
          min={0}
          max={100}
          value={edge}
          onChange={(e) => setEdge(Number(e.target.value))}
        />
        <b>{names[1]}</b>
      </figcaption>
    </figure>
  );
}
