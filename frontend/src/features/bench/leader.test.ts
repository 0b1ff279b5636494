import { describe, expect, it } from "vitest";
import { read, written } from "./leader";

describe("a leader", () => {
  it("is taken apart and put together", () => {
    const parts = read("bars 90 s, slate 20.5 s");
    expect(parts).toEqual({ bars: "90", slate: "20.5", black: "" });
    expect(written(parts)).toBe("bars 90 s, slate 20.5 s");
  });
  it("leaves out what stands for no time", () => {
    expect(written({ bars: "", slate: "0", black: "x" })).toBe("");
    expect(read("")).toEqual({ bars: "", slate: "", black: "" });
  });
});
