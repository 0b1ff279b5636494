import { describe, expect, it } from "vitest";
import { dueOf } from "./Replay";

describe("when pictures are shown", () => {
  it("is each in its turn where none is late", () => {
    expect(dueOf({ waits: [0, 0, 0] }, 40)).toEqual([0, 40, 80]);
  });

  it("is later by all that came late before", () => {
    expect(dueOf({ waits: [0, 5, 0, 20] }, 40)).toEqual([0, 45, 85, 145]);
  });
});
