import "@fontsource/stardos-stencil/400.css";
import "@fontsource-variable/source-sans-3";
import "@fontsource-variable/source-code-pro";
import "./style.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router-dom";
import { asksAgain } from "../api/client";
import { Pages } from "./routes";

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
          <Pages />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
