import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, expect, test } from "vitest";
import { Guides, shapeOf } from "../masters/guides";
import { GuidesField } from "./GuidesField";

afterEach(cleanup);

function Page() {
  const [guides, set] = useState("none");
  return (
    <>
      <GuidesField guides={guides} set={set} />
      <button onClick={() => set("4:3")}>on</button>
      <Guides kind={guides} aspect={16 / 9} />
    </>
  );
}

test("a shape of one's own is drawn, and one that is none leaves the last", async () => {
  render(<Page />);
  expect(screen.queryByRole("img")).toBeNull();
  await userEvent.selectOptions(screen.getByLabelText("Guides over the frame"), "free");
  const field = screen.getByLabelText("width to 1");
  await userEvent.clear(field);
  await userEvent.type(field, "2");
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("what 2:1 would keep");
  const high = screen.getByRole("img").querySelector("rect")?.getAttribute("height");
  expect(Number(high)).toBeCloseTo((100 * 16) / 9 / 2);
  await userEvent.type(field, "x");
  expect(field.getAttribute("aria-invalid")).toBe("true");
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("what 2:1 would keep");
  await userEvent.clear(field);
  await userEvent.type(field, "1.5");
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("what 1.5:1 would keep");
  await userEvent.click(screen.getByRole("button"));
  expect(screen.queryByLabelText("width to 1")).toBeNull();
  await userEvent.selectOptions(screen.getByLabelText("Guides over the frame"), "none");
  expect(screen.queryByRole("img")).toBeNull();
});

test("a shape is told from what is none", () => {
  expect(shapeOf("1.85:1")).toBe(1.85);
  expect(shapeOf("2.2:1")).toBe(2.2);
  expect(["0:1", "99:1", "wide", "2.2", "", "safe areas"].map(shapeOf)).toEqual(
    Array(6).fill(undefined),
  );
});
