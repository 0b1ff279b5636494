import { act, cleanup, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router-dom";
import { afterEach, expect, test, vi } from "vitest";
import { type GridRow, useGrid } from "./useGrid";

afterEach(cleanup);

const row = (id: number, rank: number, more: object = {}) =>
  ({
    id,
    item: `film ${id}`,
    words: `film ${id}`,
    strip: { concerns: { rank, breaks: 0, stops: 0, choices: 0, cautions: 0, ...more } },
  }) as unknown as GridRow;
const ROWS = [row(1, 6), row(2, 0, { breaks: 1 }), row(3, 3, { cautions: 2 }), row(4, 6)];

function grid(at: number | undefined, setAt = vi.fn()) {
  const wrapper = ({ children }: { children: ReactNode }) => (
    <MemoryRouter>{children}</MemoryRouter>
  );
  return renderHook(() => useGrid(ROWS, at, setAt), { wrapper }).result;
}
const press = (made: ReturnType<typeof grid>, key: string) =>
  act(() => made.current.keys.find((k) => k.key === key)?.run());
const shown = (made: ReturnType<typeof grid>) => made.current.shown.map((r) => r.id);

test("the worst is first, and what is looked for is left", () => {
  const made = grid(undefined);
  expect(shown(made)).toEqual([2, 3, 1, 4]);
  expect(made.current.counts).toMatchObject({ all: 4, breaks: 1, cautions: 1 });
  press(made, "2");
  expect(shown(made)).toEqual([2]);
  press(made, "1");
  act(() => made.current.setSearch("4 FILM"));
  expect(shown(made)).toEqual([4]);
});

test("the keys go through what is shown, in its order", () => {
  const setAt = vi.fn();
  const made = grid(3, setAt);
  press(made, "ArrowDown");
  press(made, "ArrowUp");
  expect(setAt.mock.calls).toEqual([[1], [2]]);
});

test("what is not shown is not picked", () => {
  const made = grid(3);
  press(made, "a");
  expect(made.current.picked).toHaveLength(4);
  press(made, "5");
  expect(made.current.picked.map((r) => r.id)).toEqual([3]);
  press(made, " ");
  expect(made.current.picked).toHaveLength(0);
});
