import { describe, expect, it } from "vitest";
import { drawn, moved, type Room, snapped, written } from "./region";

const picture = { x: 0, y: 32, width: 720, height: 576 };
const room: Room = { picture, columns: 4, lines: 2, least: 16 };
const part = { x: 40, y: 72, width: 400, height: 300 };

describe("a part of the picture", () => {
  it("is moved in whole steps and stays within the picture", () => {
    expect(moved(part, 5, 3, room)).toEqual({ ...part, x: 44, y: 76 });
    expect(moved(part, -500, -500, room)).toEqual({ ...part, x: 0, y: 32 });
    expect(moved(part, 5000, 5000, room)).toEqual({ ...part, x: 320, y: 308 });
  });

  it("is drawn by an edge, the others stay", () => {
    expect(drawn(part, "e", 21, 0, room)).toEqual({ ...part, width: 420 });
    expect(drawn(part, "nw", -20, -20, room)).toEqual({ x: 20, y: 52, width: 420, height: 320 });
    expect(drawn(part, "n", 0, -500, room)).toEqual({ ...part, y: 32, height: 340 });
  });

  it("does not become smaller than can be", () => {
    const small = drawn(part, "se", -5000, -5000, room);
    expect([small.width, small.height]).toEqual([16, 16]);
  });

  it("keeps its shape where asked", () => {
    const made = drawn(part, "se", 80, 0, room, 4 / 3);
    expect([made.width, made.height]).toEqual([480, 360]);
    const most = drawn(part, "se", 5000, 0, room, 4 / 3);
    expect([most.width, most.height]).toEqual([680, 510]);
    expect([most.x, most.y]).toEqual([part.x, part.y]);
  });

  it("takes a picture's own odd end", () => {
    const odd: Room = { ...room, picture: { x: 0, y: 0, width: 721, height: 577 } };
    expect(snapped({ x: 0, y: 0, width: 800, height: 800 }, odd)).toEqual(odd.picture);
    expect(snapped({ x: 3, y: 3, width: 719, height: 575 }, odd)).toEqual({
      x: 0,
      y: 0,
      width: 720,
      height: 576,
    });
  });

  it("is written as it is chosen, and all of the picture not at all", () => {
    expect(written(part, picture)).toBe("400 x 300 + 40 + 72");
    expect(written({ ...picture }, picture)).toBeNull();
  });
});
