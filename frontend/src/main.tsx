import "@fontsource/stardos-stencil/400.css";
import "@fontsource-variable/source-sans-3";
import "@fontsource-variable/source-code-pro";
import "./style.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router-dom";
import { asksAgain } from "./api/client";
import { CratePage } from "./crates/CratePage";
import { NewCrate } from "./crates/NewCrate";
import { SideBySide } from "./crates/SideBySide";
import { Floor } from "./floor/Floor";
import { Housekeeping } from "./housekeeping/Housekeeping";
import { MasterPage } from "./masters/MasterPage";
import { Masters } from "./masters/Masters";
import { Receipts } from "./receipts/Receipts";
import { BeginSpec } from "./specs/Begin";
import { Compare } from "./specs/Compare";
import { EditSpec } from "./specs/Edit";
import { SpecPage } from "./specs/SpecPage";
import { Specs } from "./specs/Specs";
import { Frame } from "./ui/Frame";
import { Empty } from "./ui/states";

// News comes by itself; a page asks again now and then all the same, for a tab that a browser put
// to sleep passes none on.
const client = new QueryClient({
  // The server is on this machine: a browser that believes itself offline asks all the same.
  defaultOptions: {
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: asksAgain,
      retryDelay: 1_500,
      refetchInterval: (query) =>
        query.observers.some((o) => o.options.staleTime === Infinity) ? false : 30_000,
    },
  },
});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Routes>
            <Route element={<Frame />}>
              <Route index element={<Floor />} />
              <Route path="masters" element={<Masters />} />
              <Route path="masters/:id" element={<MasterPage />} />
              <Route path="specs" element={<Specs />} />
              <Route path="specs/new" element={<BeginSpec />} />
              <Route path="specs/write" element={<EditSpec />} />
              <Route path="specs/compare" element={<Compare />} />
              <Route path="specs/:id" element={<SpecPage />} />
              <Route path="specs/:id/edit" element={<EditSpec />} />
              <Route path="crates/new" element={<NewCrate />} />
              <Route path="crates/:id" element={<CratePage />} />
              <Route path="crates/:id/side-by-side/:deliverable" element={<SideBySide />} />
              <Route path="receipts" element={<Receipts />} />
              <Route path="housekeeping" element={<Housekeeping />} />
              <Route
                path="*"
                element={<Empty title="There is no such page">Choose one from the left.</Empty>}
              />
            </Route>
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
