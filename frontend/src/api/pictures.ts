/** What shows through where a picture is clear; of the matte, the transparency alone. */
export const GROUNDS = ["checker", "black", "white", "green", "matte"] as const;
export type Ground = (typeof GROUNDS)[number];

/** Which lines of a frame are shown: all, or those of one field. */
export const FIELDS = ["woven", "upper", "lower"] as const;
export type Shown = (typeof FIELDS)[number];

type Seen = { id: number; mark: string };

/**
 * The address of a frame of a master; it changes with the master's bytes, so that a browser never
 * shows an older file's.
 */
export function masterFrame(
  master: Seen,
  frame: number,
  width: number,
  ground: Ground = "checker",
): string {
  const look = `width=${width}&alpha=${ground}`;
  return `/api/masters/${master.id}/frames/${frame}?${look}&v=${master.mark}`;
}

type Planned = {
  id: number;
  master: Seen;
  picture_size: string | null;
  first: number;
  left_out: readonly { first: number; frames: number }[];
  master_frames: number;
  chosen: Record<string, unknown>;
};

/** The master's frame that is taken at a place, both counted from 0. */
export function takenFrame(one: Pick<Planned, "first" | "left_out">, place: number): number {
  return one.left_out.reduce(
    (at, gone) => (at >= gone.first ? at + gone.frames : at),
    one.first + place,
  );
}

/** The place at which a master's frame is taken; that of the next one where it is not. */
export function takenPlace(one: Pick<Planned, "first" | "left_out">, frame: number): number {
  const gone = one.left_out.map((part) => Math.max(0, Math.min(part.frames, frame - part.first)));
  return Math.max(0, frame - one.first - gone.reduce((sum, n) => sum + n, 0));
}

/**
 * The address of a frame of a master as a deliverable's route will show it. What is chosen stands
 * in it, so that another choice is another picture.
 */
export function plannedFrame(
  one: Planned,
  frame: number,
  width: number,
  ground: Ground = "checker",
): string {
  const look = `width=${width}&alpha=${ground}`;
  return `/api/crates/deliverables/${one.id}/planned/${frame}?${look}&of=${made(one)}`;
}

/** The same of a frame counted in what will be made. */
export function plannedPlace(one: Planned, place: number, width: number): string {
  const frame = `/api/crates/deliverables/${one.id}/planned-places/${place}`;
  return `${frame}?width=${width}&of=${made(one)}`;
}

/** The same as it looks coded at a rate, b/s. */
export function codedPlace(one: Planned, place: number, width: number, rate: number): string {
  const frame = `/api/crates/deliverables/${one.id}/coded/${place}`;
  return `${frame}?width=${width}&rate=${rate}&of=${made(one)}`;
}

const made = (one: Planned) =>
  [
    one.master.mark,
    one.picture_size ?? "",
    one.first,
    one.master_frames,
    one.left_out.map(({ first, frames }) => `${first}+${frames}`).join("-"),
    encodeURIComponent(JSON.stringify(one.chosen)),
  ].join("-");
