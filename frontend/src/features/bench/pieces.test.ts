import { describe, expect, it } from "vitest";
import { between, joined, lies } from "./pieces";

describe("a part of a master", () => {
  it("lies between two frames, whichever comes first", () => {
    expect(between(10, 14)).toEqual({ first: 10, frames: 5 });
    expect(between(14, 10)).toEqual({ first: 10, frames: 5 });
    expect(between(7, 7)).toEqual({ first: 7, frames: 1 });
  });

  it.each([
    [10, 5, true],
    [9, 5, false],
    [16, 5, false],
  ])("from %d for %d frames lies within a range or not", (first, frames, within) =>
    expect(lies({ first, frames }, { first: 10, frames: 10 })).toBe(within),
  );
});

describe("ranges that are joined", () => {
  it("leave out what lies between them", () => {
    const parts = [
      { first: 120, frames: 38 },
      { first: 10, frames: 15 },
      { first: 40, frames: 7 },
    ];
    expect(joined(parts)).toEqual({
      first: 10,
      frames: 148,
      left_out: [
        { first: 25, frames: 15 },
        { first: 47, frames: 73 },
      ],
    });
  });

  it("share frames, or hold each other, and nothing is left out", () => {
    const parts = [
      { first: 0, frames: 50 },
      { first: 10, frames: 5 },
      { first: 50, frames: 10 },
    ];
    expect(joined(parts)).toEqual({ first: 0, frames: 60, left_out: [] });
  });
});
