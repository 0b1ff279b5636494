import { expect, test } from "vitest";
import { read, spread, write } from "./tries";

test.each(["h264", "h264:bit_rate=8 Mb/s", "h264:bit_rate=8 Mb/s:passes=2", "prores:profile=lt"])(
  "%s is read and written the same",
  (text) => expect(write(read(text))).toBe(text),
);

test("a colon within a value parts nothing", () => {
  const one = read("h264:picture.pixel_aspect=64:45:bit_rate=2 Mb/s");
  expect(one).toEqual({
    codec: "h264",
    rate: "2 Mb/s",
    passes: 1,
    more: "picture.pixel_aspect=64:45",
  });
});

test("parts lie apart, within the film, each in the middle of its share", () => {
  const parts = spread(8000, 25, 8);
  expect(parts).toHaveLength(8);
  expect(parts[0]).toEqual({ first: 488, frames: 25 });
  for (const [n, one] of parts.entries()) {
    expect(one.first).toBeGreaterThanOrEqual(n * 1000);
    expect(one.first + one.frames).toBeLessThanOrEqual((n + 1) * 1000);
  }
});

test("a short film is taken whole", () => expect(spread(300, 25, 8)).toEqual([]));
