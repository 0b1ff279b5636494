import { describe, expect, it } from "vitest";
import { idOf, linesOf, linesRead, put, putIn, words } from "./order";

describe("an order's document", () => {
  it("loses what is emptied", () => {
    expect(put({ a: 1 }, "a", "")).toEqual({});
    expect(put({ a: 1 }, "b", [])).toEqual({ a: 1 });
    expect(putIn({ limits: { at_once: 3 } }, "limits", "at_once", null)).toEqual({});
    expect(putIn({}, "limits", "a_day", 4)).toEqual({ limits: { a_day: 4 } });
  });

  it("has an id made of its title", () => {
    expect(idOf("Spots, nightly (HD)")).toBe("spots-nightly-hd");
  });

  it("takes choices line by line, and gives them back", () => {
    const read = linesRead("framing: crop\npicture.bit_rate: 8 Mb/s\n\nburn_in: 10:00:00:00");
    expect(read).toEqual({
      framing: "crop",
      "picture.bit_rate": "8 Mb/s",
      burn_in: "10:00:00:00",
    });
    expect(linesRead(linesOf(read))).toEqual(read);
  });

  it("parts words by commas and spaces", () => {
    expect(words("*.mov, *.mp4  any")).toEqual(["*.mov", "*.mp4", "any"]);
  });
});
