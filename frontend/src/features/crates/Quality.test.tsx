import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { Quality, worstKeys } from "./Quality";

afterEach(cleanup);

const measure = (key: string, label: string, curve: number[]): Schemas["MeasureOut"] => ({
  key,
  label,
  unit: key === "ssim" ? "" : "dB",
  digits: 2,
  says: `what ${label} means`,
  source: `of ${label}`,
  mean: 45,
  p5: 41,
  worst: Math.min(...curve),
  curve,
  foretold: null,
});

const FOUND: Schemas["QualityOut"] = {
  id: 1,
  state: "done",
  progress: null,
  error: null,
  at: null,
  frames: 4,
  first: 0,
  identical: 1,
  each: 1,
  seconds: 3,
  measures: [
    measure("psnr", "PSNR", [50, 40, 48, 100]),
    measure("ssim", "SSIM", [0.9, 0.8, 0.9, 1]),
    measure("xpsnr", "XPSNR", [51, 39, 47, 100]),
  ],
  worst: [
    { frame: 1, timecode: "10:00:00:01", figures: { psnr: 40, ssim: 0.8, xpsnr: 39 } },
    { frame: 3, timecode: "10:00:00:03", figures: { psnr: 44, ssim: 0.9, xpsnr: 43 } },
  ],
  notes: [],
  interlaced: false,
  alpha: false,
};

const shown = (found: Schemas["QualityOut"], frame = 0, to = vi.fn()) => {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Quality run={7} found={found} frame={frame} to={to} />
    </QueryClientProvider>,
  );
  return to;
};

test("a measure is chosen, and says what it means and where it comes from", async () => {
  shown(FOUND, 3);
  expect(screen.getByRole("figure", { name: /^XPSNR over time/ })).toBeTruthy();
  expect(screen.getAllByText("≥ 100 dB")).toHaveLength(2);
  await userEvent.click(screen.getByRole("button", { name: "PSNR" }));
  expect(screen.getByRole("figure", { name: /^PSNR over time/ })).toBeTruthy();
  expect(screen.getByText(/what PSNR means/).textContent).toContain("Source: of PSNR.");
});

test("a worst moment leads to its frame", async () => {
  const to = shown(FOUND);
  await userEvent.click(screen.getByRole("button", { name: /10:00:00:03/ }));
  expect(to).toHaveBeenCalledWith(3);
});

test("keys go round the worst moments in the order of time", () => {
  const to = vi.fn();
  const press = (key: string, frame: number) =>
    worstKeys(FOUND, frame, to)
      .find((k) => k.key === key)
      ?.run();
  press("w", 0);
  press("w", 1);
  press("w", 3);
  press("W", 3);
  press("W", 1);
  expect(to.mock.calls.flat()).toEqual([1, 3, 1, 1, 3]);
  expect(worstKeys(undefined, 0, to)).toEqual([]);
});

test("before there is anything it says what it would do; one that goes on can be stopped", () => {
  const none = { ...FOUND, id: null, state: "none", measures: [], worst: [] };
  shown(none);
  expect(screen.getByRole("button", { name: "Measure the quality" })).toBeTruthy();
  cleanup();
  shown({ ...none, id: 2, state: "waiting" });
  expect(screen.getByText("waits for a worker")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Stop" })).toBeTruthy();
});

test("what failed says why, and can be tried again", () => {
  const error = { code: "bad-media", what: "It broke.", way_out: "Mend it.", said: "" };
  shown({ ...FOUND, state: "failed", error, measures: [], worst: [] });
  expect(screen.getByRole("status").textContent).toContain("It broke. Mend it.");
  expect(screen.getByRole("button", { name: "Measure the quality" })).toBeTruthy();
});
