import { describe, expect, it } from "vitest";
import { barOf, fitting, marks, place, spanOf } from "./window";

const NOW = Date.UTC(2026, 4, 1, 12);
const MINUTE = 60e3;

describe("the time line", () => {
  it("shows a quarter before now and the rest after", () => {
    const shown = spanOf("2 h", NOW);
    expect(shown.from).toBe(NOW - 30 * MINUTE);
    expect(shown.to).toBe(NOW + 90 * MINUTE);
    expect(place(NOW, shown)).toBe(25);
  });

  it("is as long as what is foretold needs", () => {
    expect(fitting([], NOW)).toBe("10 min");
    expect(fitting([NOW + 8 * MINUTE], NOW)).toBe("2 h");
    expect(fitting([NOW + 90 * MINUTE, NOW], NOW)).toBe("2 h");
    expect(fitting([NOW + 5000 * MINUTE], NOW)).toBe("24 h");
  });

  it("cuts what reaches beyond it, and leaves out what lies outside", () => {
    const shown = spanOf("2 h", NOW);
    expect(barOf(NOW, NOW + 12 * MINUTE, shown)).toEqual({ left: 25, width: 10 });
    expect(barOf(NOW - 500 * MINUTE, NOW, shown)).toEqual({ left: 0, width: 25 });
    expect(barOf(NOW - 500 * MINUTE, NOW - 400 * MINUTE, shown)).toBeNull();
    expect(barOf(NOW + 400 * MINUTE, NOW + 500 * MINUTE, shown)).toBeNull();
  });

  it("is marked at round times", () => {
    const found = marks(spanOf("2 h", NOW));
    expect(found.length).toBeLessThanOrEqual(10);
    for (const at of found) expect(new Date(at).getMinutes() % 15).toBe(0);
    const steps = found.slice(1).map((at, n) => at - Number(found[n]));
    expect(new Set(steps)).toEqual(new Set([15 * MINUTE]));
  });
});
