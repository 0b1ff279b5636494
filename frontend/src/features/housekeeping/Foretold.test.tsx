import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, within } from "@testing-library/react";
import { MemoryRouter } from "react-router-dom";
import { afterEach, expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { Foretold } from "./Foretold";

afterEach(cleanup);

function show(found: Schemas["ForetoldOut"]) {
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity } } });
  client.setQueryData(keys.foretold, found);
  render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <Foretold />
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

test("what was foretold stands before what came, by kind and by run", () => {
  show({
    enough: 5,
    kinds: [
      {
        coded: "ProRes",
        taught: false,
        size: { runs: 3, middle: 0.0123, worst: 0.4 },
        time: { runs: 3, middle: 0.2, worst: 0.5 },
        quality: null,
      },
    ],
    runs: [
      {
        run: 7,
        crate: 2,
        deliverable: 4,
        name: "Film for one",
        coded: "ProRes",
        finished_at: null,
        size: { foretold: 2e6, came: 1.5e6 },
        time: { foretold: 4, came: 5 },
        quality: null,
      },
    ],
  });
  const kind = within(screen.getByRole("table", { name: /how far off/i }));
  expect(kind.getByText("1.2 %")).toBeTruthy();
  expect(kind.getByText(/few runs so far/)).toBeTruthy();
  expect(kind.getByText("not known")).toBeTruthy();
  const runs = within(screen.getByRole("table", { name: /what came/, hidden: true }));
  expect(runs.getByText("2.00 MB")).toBeTruthy();
  expect(runs.getByText("1.50 MB")).toBeTruthy();
  const link = runs.getByRole("link", { name: "Film for one", hidden: true });
  expect(link.getAttribute("href")).toBe("/crates/2?item=4");
});

test("where nothing was foretold yet, that is said", () => {
  show({ enough: 5, kinds: [], runs: [] });
  expect(screen.getByText(/nothing was run/i)).toBeTruthy();
});
