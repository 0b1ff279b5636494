import clsx from "clsx";
import { useRef } from "react";
import { drawn, type Edge, moved, type Rect, type Room } from "./region";

const EDGES: Exclude<Edge, "">[] = ["nw", "n", "ne", "w", "e", "sw", "s", "se"];
const FAST = 8; // steps a key press, with Shift
const LABEL = "The part taken. Arrows move it, with Alt they size it, with Shift in larger steps.";

type Props = {
  part: Rect;
  /** The master's frame, in samples. */
  frame: { width: number; height: number };
  room: Room;
  /** Width by height in samples that is kept, if one is. */
  shape?: number;
  draw: (part: Rect) => void;
  done: (part: Rect) => void;
};

/** The part of the picture that is taken, drawn by mouse or by keys. */
export function PartBox({ part, frame, room, shape, draw, done }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<{ edge: Edge; x: number; y: number; part: Rect } | null>(null);
  const last = useRef(part);
  const keyed = useRef(false);
  const share = (value: number, of: number) => `${(100 * value) / of}%`;
  const place = {
    left: share(part.x, frame.width),
    top: share(part.y, frame.height),
    width: share(part.width, frame.width),
    height: share(part.height, frame.height),
  };
  const show = (next: Rect) => {
    last.current = next;
    draw(next);
  };
  const take = (edge: Edge) => (e: React.PointerEvent) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    held.current = { edge, x: e.clientX, y: e.clientY, part };
    last.current = part;
  };
  const drag = (e: React.PointerEvent) => {
    const from = held.current;
    const wall = box.current?.getBoundingClientRect();
    if (!from || !wall) return;
    const dx = ((e.clientX - from.x) * frame.width) / wall.width;
    const dy = ((e.clientY - from.y) * frame.height) / wall.height;
    show(
      from.edge ? drawn(from.part, from.edge, dx, dy, room, shape) : moved(from.part, dx, dy, room),
    );
  };
  const drop = () => {
    if (held.current) done(last.current);
    held.current = null;
  };
  const press = (e: React.KeyboardEvent) => {
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    const way = ways[e.key];
    if (!way) return;
    e.preventDefault();
    e.stopPropagation();
    keyed.current = true;
    const times = e.shiftKey ? FAST : 1;
    const [dx, dy] = [way[0] * room.columns * times, way[1] * room.lines * times];
    show(e.altKey ? drawn(part, "se", dx, dy, room, shape) : moved(part, dx, dy, room));
  };
  const release = () => {
    if (keyed.current) done(last.current);
    keyed.current = false;
  };
  const follow = { onPointerMove: drag, onPointerUp: drop, onPointerCancel: drop };
  return (
    <div ref={box} className="absolute inset-0 overflow-hidden">
      <div
        role="slider"
        aria-label={LABEL}
        aria-valuemin={0}
        aria-valuemax={frame.width - part.width}
        aria-valuenow={part.x}
        aria-valuetext={`${part.width} x ${part.height} from ${part.x}, ${part.y}`}
        tabIndex={0}
        className="part-box absolute cursor-move touch-none"
        style={place}
        onPointerDown={take("")}
        onKeyDown={press}
        onKeyUp={release}
        onBlur={release}
        {...follow}
      >
        {EDGES.map((edge) => (
          <span
            key={edge}
            aria-hidden
            data-edge={edge}
            className={clsx("part-grip", `part-grip-${edge}`)}
            onPointerDown={take(edge)}
            {...follow}
          />
        ))}
      </div>
    </div>
  );
}
