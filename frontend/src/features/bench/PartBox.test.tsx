import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, expect, test, vi } from "vitest";
import { PartBox } from "./PartBox";

afterEach(cleanup);
beforeAll(() => {
  // What is drawn here has no size, and knows no pointer that is held.
  Element.prototype.setPointerCapture = () => undefined;
  Element.prototype.getBoundingClientRect = () => ({ width: 360, height: 180 }) as DOMRect;
});

const frame = { width: 720, height: 360 };
const picture = { x: 0, y: 0, ...frame };
const room = { picture, columns: 2, lines: 2, least: 16 };
const one = { x: 40, y: 20, width: 400, height: 200 };
const other = { x: 100, y: 60, width: 300, height: 200 };

/** A pointer's event with its place, which jsdom gives mice alone. */
const point = (box: HTMLElement, type: string, clientX = 0, clientY = 0) =>
  fireEvent(box, new MouseEvent(type, { bubbles: true, clientX, clientY }));

function shown(part: typeof one) {
  const draw = vi.fn();
  const done = vi.fn();
  const box = { frame, room, draw, done };
  const { rerender } = render(<PartBox part={part} {...box} />);
  const now = (next: typeof one) => rerender(<PartBox part={next} {...box} />);
  return { draw, done, now, box: screen.getByRole("slider") };
}

test("it is drawn while it is held, and done when it is let go of", () => {
  const { draw, done, box } = shown(one);
  point(box, "pointerdown", 100, 50);
  point(box, "pointermove", 110, 55);
  expect(draw).toHaveBeenLastCalledWith({ ...one, x: 60, y: 30 });
  expect(done).not.toHaveBeenCalled();
  point(box, "pointerup");
  expect(done).toHaveBeenCalledExactlyOnceWith({ ...one, x: 60, y: 30 });
});

test("a press that moves nothing leaves the part that is there", () => {
  const { done, box, now } = shown(one);
  point(box, "pointerdown", 100, 50);
  point(box, "pointermove", 110, 50);
  point(box, "pointerup");
  now(other);
  point(box, "pointerdown", 100, 50);
  point(box, "pointerup");
  expect(done).toHaveBeenLastCalledWith(other);
});

test("arrows move it, with Alt they size it, and other keys do neither", () => {
  const { draw, done, box } = shown(one);
  fireEvent.keyDown(box, { key: "ArrowRight", shiftKey: true });
  expect(draw).toHaveBeenLastCalledWith({ ...one, x: 56 });
  fireEvent.keyUp(box, { key: "ArrowRight" });
  expect(done).toHaveBeenCalledExactlyOnceWith({ ...one, x: 56 });
  fireEvent.keyDown(box, { key: "ArrowDown", altKey: true });
  expect(draw).toHaveBeenLastCalledWith({ ...one, height: 202 });
  fireEvent.keyUp(box, { key: "ArrowDown" });
  done.mockClear();
  fireEvent.keyDown(box, { key: "Tab" });
  fireEvent.keyUp(box, { key: "Tab" });
  expect(done).not.toHaveBeenCalled();
});
