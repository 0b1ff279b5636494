import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Grips, moved } from "./Grips";

afterEach(cleanup);

describe("the ends of a range", () => {
  it("stay within the master and keep a frame", () => {
    const range = { first: 10, frames: 5 };
    expect(moved(range, "first", -3, 20)).toEqual({ first: 0, frames: 15 });
    expect(moved(range, "first", 18, 20)).toEqual({ first: 14, frames: 1 });
    expect(moved(range, "last", 40, 20)).toEqual({ first: 10, frames: 10 });
    expect(moved(range, "last", 2, 20)).toEqual({ first: 10, frames: 1 });
  });
  it("are moved by keys, and taken when the key is let go", () => {
    const draw = vi.fn();
    const done = vi.fn();
    render(<Grips range={{ first: 10, frames: 5 }} whole={20} draw={draw} done={done} />);
    const [first, last] = screen.getAllByRole("slider") as [HTMLElement, HTMLElement];
    fireEvent.keyDown(first, { key: "ArrowLeft", shiftKey: true });
    expect(draw).toHaveBeenLastCalledWith({ first: 0, frames: 15 }, 0);
    expect(done).not.toHaveBeenCalled();
    fireEvent.keyUp(first, { key: "ArrowLeft" });
    expect(done).toHaveBeenLastCalledWith({ first: 0, frames: 15 });
    fireEvent.keyDown(last, { key: "ArrowRight" });
    expect(draw).toHaveBeenLastCalledWith({ first: 10, frames: 6 }, 15);
  });
});
