import { type ReactNode, useRef } from "react";

/** Which part of a picture is seen, from 0 (left, top) to 1 (right, bottom). */
export type Place = { x: number; y: number };

const STEP = 0.05;
const within = (n: number) => Math.max(0, Math.min(1, n));

type Props = {
  name: string;
  place: Place;
  move: (to: Place) => void;
  children: ReactNode;
};

/** A window on a picture larger than it; windows that share a place move together. */
export function Window({ name, place, move, children }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<{ x: number; y: number; place: Place } | null>(null);
  const room = () => {
    const seen = box.current;
    const picture = seen?.querySelector("img");
    if (!seen || !picture) return null;
    return {
      x: Math.max(1, picture.clientWidth - seen.clientWidth),
      y: Math.max(1, picture.clientHeight - seen.clientHeight),
    };
  };
  const drag = (e: React.PointerEvent) => {
    const from = held.current;
    const over = room();
    if (!from || !over) return;
    move({
      x: within(from.place.x - (e.clientX - from.x) / over.x),
      y: within(from.place.y - (e.clientY - from.y) / over.y),
    });
  };
  const press = (e: React.KeyboardEvent) => {
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-STEP, 0],
      ArrowRight: [STEP, 0],
      ArrowUp: [0, -STEP],
      ArrowDown: [0, STEP],
    };
    const way = ways[e.key];
    if (!way) return;
    e.preventDefault();
    e.stopPropagation();
    move({ x: within(place.x + way[0]), y: within(place.y + way[1]) });
  };
  const drop = () => {
    held.current = null;
  };
  return (
    <div
      ref={box}
      role="slider"
      aria-label={`${name}; arrows move it`}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * place.x)}
      aria-valuetext={`${Math.round(100 * place.x)} % across, ${Math.round(100 * place.y)} % down`}
      tabIndex={0}
      className="window cursor-move touch-none"
      style={
        { "--across": `${100 * place.x}%`, "--down": `${100 * place.y}%` } as React.CSSProperties
      }
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = { x: e.clientX, y: e.clientY, place };
      }}
      onPointerMove={drag}
      onPointerUp={drop}
      onPointerCancel={drop}
      onKeyDown={press}
      onDragStart={(e) => e.preventDefault()}
    >
      {children}
    </div>
  );
}
