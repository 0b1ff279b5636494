import { act, cleanup, render, screen } from "@testing-library/react";
import type { ComponentProps } from "react";
import userEvent from "@testing-library/user-event";
import { BrowserRouter, Link, Router } from "react-router-dom";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useAddress, useChoiceInAddress } from "./address";

const VIEWS = ["sentences", "table"] as const;

function Page() {
  const [text, setText] = useAddress("q", "");
  const [view, setView] = useChoiceInAddress("view", VIEWS, "sentences");
  return (
    <>
      <input aria-label="search" value={text} onChange={(e) => setText(e.target.value)} />
      <button onClick={() => setView("table")}>{view}</button>
      <Link to="/masters?q=rain">rain</Link>
      <Link to="/crates/new?spec=one">new crate</Link>
    </>
  );
}

const open = (address: string) => {
  window.history.replaceState(null, "", address);
  render(
    <BrowserRouter>
      <Page />
    </BrowserRouter>,
  );
};
const pause = () => act(() => vi.advanceTimersByTimeAsync(300));

beforeEach(() => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

describe("a state in the address", () => {
  it("is taken from it", () => {
    open("/masters?q=lantern&view=table");
    expect(screen.getByLabelText<HTMLInputElement>("search").value).toBe("lantern");
    expect(screen.getByRole("button").textContent).toBe("table");
  });

  it("is written into it after a pause, beside what stands there", async () => {
    open("/masters?production=Lichen");
    await userEvent.type(screen.getByLabelText("search"), "fog");
    await userEvent.click(screen.getByRole("button"));
    await pause();
    const query = new URLSearchParams(window.location.search);
    expect(Object.fromEntries(query)).toEqual({ production: "Lichen", q: "fog", view: "table" });
  });

  it("is left out where it is the usual one", async () => {
    open("/masters?q=fog");
    await userEvent.clear(screen.getByLabelText("search"));
    await pause();
    expect(window.location.search).toBe("");
  });

  it("calls nobody back who has gone to another page meanwhile", async () => {
    open("/masters");
    await userEvent.click(screen.getByRole("button"));
    await userEvent.click(screen.getByText("new crate"));
    await pause();
    expect(window.location.pathname + window.location.search).toBe("/crates/new?spec=one");
  });

  it("follows when another address of the page is gone to", async () => {
    open("/masters?q=fog");
    await userEvent.click(screen.getByText("rain"));
    expect(screen.getByLabelText<HTMLInputElement>("search").value).toBe("rain");
    await userEvent.type(screen.getByLabelText("search"), "y");
    await pause();
    expect(window.location.search).toBe("?q=rainy");
  });

  it("loses nothing that is typed where the address follows late", async () => {
    const went: string[] = [];
    const late = {
      createHref: String,
      go: () => undefined,
      push: () => undefined,
      replace: (to: { search?: string }) => void went.push(to.search ?? ""),
    } as unknown as ComponentProps<typeof Router>["navigator"];
    const at = (search: string) => (
      <Router location={{ pathname: "/masters", search }} navigator={late}>
        <Page />
      </Router>
    );
    window.history.replaceState(null, "", "/masters");
    const { rerender } = render(at(""));
    const box = screen.getByLabelText<HTMLInputElement>("search");
    await userEvent.type(box, "f");
    await pause();
    await userEvent.type(box, "o");
    await pause();
    await userEvent.type(box, "g");
    expect(went).toEqual(["?q=f", "?q=fo"]);
    for (const search of went) rerender(at(search));
    expect(box.value).toBe("fog");
    await pause();
    expect(went.at(-1)).toBe("?q=fog");
  });

  it("is the usual one where the address says what there is not", () => {
    open("/masters?view=upside-down");
    expect(screen.getByRole("button").textContent).toBe("sentences");
  });
});
