import { describe, expect, it } from "vitest";
import { along, nearest, within } from "./rates";

const points = [1, 2, 4, 8, 16].map((n) => ({ bit_rate: n * 1e6 }));

describe("rates on a line", () => {
  it("lie as far apart for each doubling", () => {
    expect(along(points, 4e6)).toBeCloseTo(0.5);
    expect(along(points, 1e6)).toBe(0);
    expect(along(points, 16e6)).toBe(1);
  });
  it("stay on the line", () => {
    expect(along(points, 1)).toBe(0);
    expect(along(points, 1e12)).toBe(1);
    expect(along([{ bit_rate: 5 }], 5)).toBe(0);
  });
  it("lie on it or not", () => {
    expect(within(points, 1e6) && within(points, 16e6)).toBe(true);
    expect(within(points, 0.9e6) || within(points, 17e6) || within([], 1)).toBe(false);
  });
  it("are found by ratio", () => {
    expect(nearest(points, 2.7e6)).toBe(1);
    expect(nearest(points, 3e6)).toBe(2);
    expect(nearest([], 3e6)).toBe(0);
  });
});
