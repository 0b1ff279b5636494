import { describe, expect, it } from "vitest";
import { bytes, fps, length, span, timecode } from "./format";

describe("bytes", () => {
  it.each([
    [0, "0 B"],
    [999, "999 B"],
    [1_000, "1.00 kB"],
    [2_500_000, "2.50 MB"],
    [4_700_000_000, "4.70 GB"],
  ])("says %i in decimal units", (n, said) => expect(bytes(n)).toBe(said));
});

describe("span", () => {
  it.each([
    [59.4, "59 s"],
    [60, "1 min 00 s"],
    [3_599, "59 min 59 s"],
    [7_265, "2 h 01 min"],
    [-90, "1 min 30 s"],
    [200_000, "2 d 7 h"],
  ])("says %d seconds at a glance", (n, said) => expect(span(n)).toBe(said));
});

describe("length", () => {
  it.each([
    [0, "0.00 s"],
    [59.999, "1 min 00.00 s"],
    [576, "9 min 36.00 s"],
    [5_762.4, "1 h 36 min 02.40 s"],
  ])("says %d seconds to a hundredth", (n, said) => expect(length(n)).toBe(said));
});

describe("fps", () => {
  it("reads a fraction, and takes 25 where nothing is said", () => {
    expect(fps("30000/1001")).toBeCloseTo(29.97, 3);
    expect(fps("50")).toBe(50);
    expect(fps(null)).toBe(25);
  });
});

describe("timecode", () => {
  it("counts hours, minutes, seconds and frames", () => {
    expect(timecode(25 * 3661 + 7, "25/1")).toBe("01:01:01:07");
  });

  // SMPTE ST 12-1: drop-frame leaves out 0 and 1 of every minute but each tenth.
  it.each([
    [1_799, "00:00:59;29"],
    [1_800, "00:01:00;02"],
    [17_981, "00:09:59;29"],
    [17_982, "00:10:00;00"],
    [107_892, "01:00:00;00"],
  ])("leaves numbers out with drop-frame: %i", (frame, label) =>
    expect(timecode(frame, "30000/1001", 0, true)).toBe(label),
  );

  it("goes on from a start, and over midnight", () => {
    expect(timecode(1, "25/1", 25 * 86_400 - 1)).toBe("00:00:00:00");
  });
});
