import { expect, it } from "vitest";
import { plannedFrame, takenFrame, takenPlace } from "./pictures";

const one = {
  id: 3,
  master: { id: 1, mark: "a" },
  picture_size: "1280 x 720",
  first: 10,
  master_frames: 60,
  left_out: [
    { first: 25, frames: 15 },
    { first: 47, frames: 73 },
  ],
  chosen: {},
};

it("counts frames that are taken without those that are left out", () => {
  const places = [0, 14, 15, 21, 22, 59];
  expect(places.map((n) => takenFrame(one, n))).toEqual([10, 24, 40, 46, 120, 157]);
  expect(takenFrame({ first: 10, left_out: [] }, 22)).toBe(32);
  expect(places.map((n) => takenPlace(one, takenFrame(one, n)))).toEqual(places);
  // A frame that is not taken gives the place of the next, one before the first the first.
  expect(takenPlace(one, 30)).toBe(takenPlace(one, 40));
  expect(takenPlace(one, 3)).toBe(0);
});

it("has another address where something else is left out", () => {
  const other = { ...one, left_out: [{ first: 26, frames: 88 }] };
  expect(plannedFrame(other, 5, 640)).not.toBe(plannedFrame(one, 5, 640));
});
