import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router-dom";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { Near, ends, verdict } from "./Near";

afterEach(cleanup);

const OTHER = { id: 8, name: "film_2.mov", summary: ["1920 x 1080"], size: 3e6, mark: "b" };

const near = (values: Partial<Schemas["NearOut"]>): Schemas["NearOut"] => ({
  master: OTHER as Schemas["MasterOut"],
  wrapper: "MOV",
  coded: false,
  shared: 100,
  same: 100,
  before: 0,
  after: 0,
  parts: [],
  more: 0,
  ...values,
});

test("what tells another one apart is said in a sentence", () => {
  expect(verdict(near({ coded: true }), "MOV")).toBe("The very same coded pictures.");
  expect(verdict(near({ coded: true }), "AVI")).toMatch(/in MOV/);
  expect(verdict(near({}), "MOV")).toMatch(/same pictures as far as can be seen/);
  expect(verdict(near({ same: 88 }), "MOV")).toBe("12 of 100 frames look otherwise.");
  expect(ends(near({ before: -1, after: 25 }))).toBe(
    "It has 1 frame less at its start. It has 25 frames more at its end.",
  );
  expect(ends(near({}))).toBe("");
});

function show(found: Schemas["NearList"], to = vi.fn()) {
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity } } });
  client.setQueryData(keys.masters.near(7), found);
  const master = { id: 7, mark: "a", rate: "25", start_frame: 0, drop_frame: false };
  render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <Near master={master as Schemas["MasterPage"]} to={to} />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return to;
}

test("a place that looks otherwise is gone to, and shown of both", async () => {
  const parts = [{ first: 30, last: 41, other: 35 }];
  const to = show({ looked: true, wrapper: "MOV", near: [near({ same: 88, parts })] });
  await userEvent.click(screen.getByRole("button", { name: /00:00:01:05, 12 frames/ }));
  expect(to).toHaveBeenCalledWith(30);
  const pictures = screen.getAllByRole("img").map((one) => one.getAttribute("src"));
  expect(pictures[0]).toMatch(/masters\/7\/frames\/35\?/);
  expect(pictures[1]).toMatch(/masters\/8\/frames\/40\?/);
});

test("where it was not looked at, the way to it is said", () => {
  show({ looked: false, wrapper: null, near: [] });
  expect(screen.getByText(/read it again/)).toBeTruthy();
});
