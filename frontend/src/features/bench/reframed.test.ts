import { expect, test } from "vitest";
import { endsAt, withRange, without, write } from "./reframed";

const crop = { first: 5, last: 9, region: "200 x 120 + 32 + 24", framing: "crop" };
const plain = { first: 20, last: 29, region: "", framing: "stretch" };

test("ranges are written in order", () => {
  expect(write([plain, crop])).toBe("5-9: 200 x 120 + 32 + 24, crop; 20-29: stretch");
  expect(write([])).toBe("");
  expect(write([{ ...plain, framing: "" }])).toBe("20-29:");
});

test("the range of a frame is found by its ends", () => {
  const text = write([crop, plain]);
  expect(endsAt(text, 4)).toBeNull();
  expect(endsAt(text, 5)).toEqual([5, 9]);
  expect(endsAt(text, 9)).toEqual([5, 9]);
  expect(endsAt(text, 25)).toEqual([20, 29]);
  expect(endsAt("", 0)).toBeNull();
});

test("a new range takes its frames from others", () => {
  const made = withRange([crop, plain], { ...plain, first: 8, last: 22, framing: "pad" });
  expect(made.map(({ first, last }) => [first, last])).toEqual([
    [5, 7],
    [23, 29],
    [8, 22],
  ]);
  expect(without([plain], 22, 24).map(({ first, last }) => [first, last])).toEqual([
    [20, 21],
    [25, 29],
  ]);
  expect(without([plain], 0, 99)).toEqual([]);
});
