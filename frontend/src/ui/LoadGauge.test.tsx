import { render } from "@testing-library/react";
import type { ReactElement } from "react";
import { expect, test } from "vitest";

import { LoadGauge, zone } from "./LoadGauge";

const MB = 1_000_000;

function shown(gauge: ReactElement): string {
  return render(gauge).container.textContent ?? "";
}

test.each([
  [10 * MB, null, null, "no cap"],
  [10 * MB, 100 * MB, null, "room left"],
  [61 * MB, 100 * MB, null, "well filled"],
  [98 * MB, 100 * MB, null, "brim-full"],
  [101 * MB, 100 * MB, null, "over the cap"],
  [90 * MB, 100 * MB, { least: 20 * MB, most: 120 * MB }, "may go over the cap"],
  [90 * MB, 100 * MB, { least: 101 * MB, most: 120 * MB }, "over the cap"],
  [40 * MB, 100 * MB, { least: 5 * MB, most: 50 * MB }, "room left"],
])("%d of %s in %o is told as it is", (size, cap, range, word) => {
  expect(zone(size, cap, range)).toBe(word);
});

test("a size that follows from the pictures is shown as a range", () => {
  const range = { least: 20 * MB, most: 120 * MB };
  const gauge = shown(
    <LoadGauge size={90 * MB} cap={100 * MB} of="a file" measured={false} range={range} />,
  );
  expect(gauge).toContain("20.00 MB to 120.00 MB predicted");
  expect(gauge).toContain("the pictures decide");
});

test("what was measured is one figure", () => {
  const gauge = shown(<LoadGauge size={90 * MB} cap={100 * MB} of="a file" measured />);
  expect(gauge).toContain("90.00 MB measured");
});

test("what sizes buy stands on the wall, as far as it lies under the cap", () => {
  const buys = { poor: 20 * MB, clean: 120 * MB };
  const gauge = shown(
    <LoadGauge size={90 * MB} cap={100 * MB} of="a file" measured={false} buys={buys} />,
  );
  expect(gauge).toContain("loss shows");
  expect(gauge).not.toContain("hardly any loss");
});
