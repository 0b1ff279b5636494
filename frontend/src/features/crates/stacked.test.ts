import { expect, test, vi } from "vitest";
import { draw, drawn, type Look } from "./stacked";

const SIZE: [number, number] = [100, 50];
const from = {} as CanvasImageSource;

/** What is drawn: how it is laid over, and of which part to which place. */
function calls(look: Look, share = 0.3, lower = false) {
  const made: [string, number[]][] = [];
  const to = {
    globalCompositeOperation: "",
    canvas: {},
    drawImage: vi.fn((_: unknown, ...where: number[]) => {
      made.push([to.globalCompositeOperation, where]);
    }),
  };
  draw(to as unknown as CanvasRenderingContext2D, from, SIZE, { look, share, lower });
  expect(to.globalCompositeOperation).toBe("source-over");
  return made;
}

test("beside each other the upper picture stands left", () => {
  expect(drawn("beside", ...SIZE)).toEqual([200, 50]);
  expect(calls("beside")).toEqual([
    ["source-over", [0, 0, 100, 50, 0, 0, 100, 50]],
    ["source-over", [0, 50, 100, 50, 100, 0, 100, 50]],
  ]);
});

test("a wipe lays so much of the upper picture over the lower", () => {
  expect(calls("wipe")).toEqual([
    ["source-over", [0, 50, 100, 50, 0, 0, 100, 50]],
    ["source-over", [0, 0, 30, 50, 0, 0, 30, 50]],
  ]);
  expect(calls("wipe", 0)).toHaveLength(1);
});

test("one at a time is the one that is chosen", () => {
  expect(calls("one at a time", 0, false)[0]?.[1][1]).toBe(0);
  expect(calls("one at a time", 0, true)[0]?.[1][1]).toBe(50);
});

test("a difference is amplified eight times", () => {
  expect(calls("difference").map(([how]) => how)).toEqual([
    "source-over",
    "difference",
    "lighter",
    "lighter",
    "lighter",
  ]);
});
