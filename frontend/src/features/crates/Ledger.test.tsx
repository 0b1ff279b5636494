import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router-dom";
import { afterEach, expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { Ledger } from "./Ledger";

afterEach(cleanup);

type Row = Schemas["LedgerRow"];
const row = (label: string, group: string, matters: Row["matters"]) =>
  ({
    property: `${group}.${label}`,
    part: "",
    label,
    group,
    kind: "text",
    severity: "must",
    asked: label,
    contradiction: "",
    master: { found: label, verdict: "meets" },
    route: null,
    file: { found: label, verdict: "meets" },
    verdict: "meets",
    why: "",
    exception: null,
    matters,
  }) as unknown as Row;

const ledger = (rows: Row[]) => {
  const of = { rows, cautions: [], steps: [], choices: {}, options: {}, chosen: {} };
  render(
    <MemoryRouter>
      <Ledger deliverable={of as unknown as Schemas["DeliverableOut"]} open={false} />
    </MemoryRouter>,
  );
};

test("what matters stands first, and the rest is folded by group and counted", async () => {
  ledger([
    row("codec", "picture", ""),
    row("range", "picture", ""),
    row("layout", "sound", "breaks"),
  ]);
  expect(screen.queryAllByText("layout")).not.toEqual([]);
  expect(screen.queryAllByText("codec")).toEqual([]);
  screen.getByText(/simply meet and are folded: picture 2/);
  await userEvent.click(screen.getByRole("button", { name: "Show all rows" }));
  expect(screen.queryAllByText("codec")).not.toEqual([]);
});

test("a ledger of which nothing stands out is shown whole", () => {
  ledger([row("codec", "picture", ""), row("layout", "sound", "")]);
  expect(screen.queryAllByText("codec")).not.toEqual([]);
  expect(screen.queryAllByText("layout")).not.toEqual([]);
  expect(screen.queryByRole("button", { name: /Show/ })).toBeNull();
});
