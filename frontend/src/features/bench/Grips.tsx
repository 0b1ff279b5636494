import { useRef } from "react";

export type Range = { first: number; frames: number };
type End = "first" | "last";

type Props = {
  range: Range;
  /** What of it is not taken. */
  leftOut?: readonly Range[];
  /** Frames of the master. */
  whole: number;
  /** Shows where an end would be, while it is drawn. */
  draw: (range: Range, at: number) => void;
  done: (range: Range) => void;
};

/** A range with one of its ends at another frame; it keeps a frame at least. */
export function moved(range: Range, end: End, to: number, whole: number): Range {
  const last = range.first + range.frames - 1;
  if (end === "first") {
    const first = Math.max(0, Math.min(last, to));
    return { first, frames: last - first + 1 };
  }
  const other = Math.max(range.first, Math.min(whole - 1, to));
  return { first: range.first, frames: other - range.first + 1 };
}

const FAST = 10; // frames a key press, with Shift

/** The ends of what is taken, drawn on a time line by mouse or moved by keys. */
export function Grips({ range, leftOut = [], whole, draw, done }: Props) {
  const line = useRef<HTMLDivElement>(null);
  const held = useRef<End | null>(null);
  const now = useRef(range);
  const keyed = useRef(false);
  const last = range.first + range.frames - 1;
  const show = (next: Range, end: End) => {
    now.current = next;
    draw(next, end === "first" ? next.first : next.first + next.frames - 1);
  };
  const drag = (e: React.PointerEvent) => {
    const box = line.current?.getBoundingClientRect();
    if (!held.current || !box) return;
    const at = ((e.clientX - box.left) / box.width) * whole;
    // An end lies before its first frame, or after its last.
    show(
      moved(now.current, held.current, Math.round(held.current === "first" ? at : at - 1), whole),
      held.current,
    );
  };
  const drop = () => {
    if (held.current) done(now.current);
    held.current = null;
  };
  const press = (end: End) => (e: React.KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (!way) return;
    e.preventDefault();
    e.stopPropagation();
    keyed.current = true;
    const from = end === "first" ? range.first : last;
    show(moved(range, end, from + way * (e.shiftKey ? FAST : 1), whole), end);
  };
  const release = () => {
    if (keyed.current) done(now.current);
    keyed.current = false;
  };
  const share = (frames: number) => `${(100 * frames) / whole}%`;
  const grip = (end: End, at: number, frame: number) => (
    <div
      role="slider"
      aria-label={`${end} frame taken; arrows move it, with Shift by ${FAST}`}
      aria-valuemin={0}
      aria-valuemax={whole - 1}
      aria-valuenow={frame}
      tabIndex={0}
      data-end={end}
      className="grip absolute inset-y-0 w-3 -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: share(at) }}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = end;
        now.current = range;
      }}
      onPointerMove={drag}
      onPointerUp={drop}
      onPointerCancel={drop}
      onKeyDown={press(end)}
      onKeyUp={release}
      onBlur={release}
    />
  );
  return (
    // A click on a grip is none on the time line.
    <div ref={line} role="presentation" className="pointer-events-none absolute inset-0">
      <div className="left-out absolute inset-y-0 left-0" style={{ width: share(range.first) }} />
      <div
        className="left-out absolute inset-y-0 right-0"
        style={{ width: share(whole - 1 - last) }}
      />
      {leftOut.map((one) => (
        <div
          key={one.first}
          className="left-out absolute inset-y-0"
          style={{ left: share(one.first), width: share(one.frames) }}
        />
      ))}
      <div
        role="presentation"
        className="pointer-events-auto contents"
        onClick={(e) => e.stopPropagation()}
      >
        {grip("first", range.first, range.first)}
        {grip("last", last + 1, last)}
      </div>
    </div>
  );
}
