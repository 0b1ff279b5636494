import { describe, expect, it } from "vitest";
import { mixOf, readGain, withGain, written } from "./mix";

describe("a mix that is set", () => {
  const gains = [
    [0, null, -3.0103],
    [null, 0, -3.0103],
  ];

  it("is written as the server reads it", () => {
    expect(mixOf(["FL", "FR", "FC"], ["FL", "FR"], gains)).toBe(
      "FL = FL, FC -3.01; FR = FR, FC -3.01",
    );
    expect(mixOf(["FL"], ["FL", "FR"], [[0], [null]])).toBe("FL = FL; FR =");
  });

  it("takes another gain", () => {
    const other = withGain(gains, 1, 2, null);
    expect(mixOf(["FL", "FR", "FC"], ["FL", "FR"], other)).toBe("FL = FL, FC -3.01; FR = FR");
    expect(gains[1]?.[2]).toBe(-3.0103);
  });

  it("reads gains as they are typed", () => {
    expect([" -6 ", "\u22124.5", "", "loud"].map(readGain)).toEqual([-6, -4.5, null, undefined]);
    expect([null, 0, -0.001].map(written)).toEqual(["", "0", "0"]);
  });
});
