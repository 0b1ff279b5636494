import { expect, it } from "vitest";
import { beside } from "./RunLine";

it("says who goes along, or who is at it, and nothing of one alone", () => {
  expect(beside(1)).toBe("");
  expect(beside(2)).toBe(", and one other from the same reading");
  expect(beside(4)).toBe(", and 3 others from the same reading");
  expect(beside(1, 3)).toBe(", by 3 workers");
});
