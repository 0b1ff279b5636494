import type { Schemas } from "../../api/client";

export type Rect = Schemas["RectOut"];
/** Where a part may lie, the steps in which it comes, and how small it may be, in samples. */
export type Room = { picture: Rect; columns: number; lines: number; least: number };
/** The edge or corner that is dragged, such as "n" or "se"; "" moves the whole. */
export type Edge = "" | "n" | "s" | "e" | "w" | "ne" | "nw" | "se" | "sw";

const near = (value: number, step: number) => Math.floor((value + step / 2) / step) * step;
const within = (value: number, least: number, most: number) =>
  Math.max(least, Math.min(most, value));

/** One side: where it begins and how long it is, brought to steps within a room. */
function side(at: number, long: number, room: number, step: number, least: number) {
  const whole = room - (room % step);
  const length = long >= room ? room : within(near(Math.max(long, least), step), step, whole);
  const most = room - length;
  const start = near(within(at, 0, most), step);
  return [start <= most ? start : start - step, length] as const;
}

/** The part next to one that lies within the picture and comes in whole steps. */
export function snapped(part: Rect, { picture, columns, lines, least }: Room): Rect {
  const [left, width] = side(part.x - picture.x, part.width, picture.width, columns, least);
  const [top, height] = side(part.y - picture.y, part.height, picture.height, lines, least);
  return { x: picture.x + left, y: picture.y + top, width, height };
}

/** A part moved by so many samples and lines. */
export function moved(part: Rect, dx: number, dy: number, room: Room): Rect {
  return snapped({ ...part, x: part.x + dx, y: part.y + dy }, room);
}

/**
 * A part whose edge or corner is drawn so far; with `shape` (width by height in samples) it keeps
 * that shape, about the side that stays.
 */
export function drawn(
  part: Rect,
  edge: Edge,
  dx: number,
  dy: number,
  room: Room,
  shape?: number,
): Rect {
  const { picture, least } = room;
  const right = part.x + part.width;
  const bottom = part.y + part.height;
  const east = edge.includes("e");
  const south = edge.includes("s");
  let { x, y, width, height } = part;
  if (east) width = within(width + dx, least, picture.x + picture.width - x);
  if (south) height = within(height + dy, least, picture.y + picture.height - y);
  if (edge.includes("w")) {
    x = within(x + dx, picture.x, right - least);
    width = right - x;
  }
  if (edge.includes("n")) {
    y = within(y + dy, picture.y, bottom - least);
    height = bottom - y;
  }
  if (shape) {
    const upright = edge === "n" || edge === "s";
    const across = edge.includes("w") ? right - picture.x : picture.x + picture.width - x;
    const down = edge.includes("n") ? bottom - picture.y : picture.y + picture.height - y;
    width = Math.min(upright ? height * shape : width, across, down * shape);
    height = width / shape;
    if (edge.includes("w")) x = right - width;
    if (edge.includes("n")) y = bottom - height;
  }
  return snapped({ x, y, width, height }, room);
}

export const same = (a: Rect, b: Rect) =>
  a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;

/** A part as it is chosen; all of the picture is none. */
export const written = (part: Rect, picture: Rect) =>
  same(part, picture) ? null : `${part.width} x ${part.height} + ${part.x} + ${part.y}`;
