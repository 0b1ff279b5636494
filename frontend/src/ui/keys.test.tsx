import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { KeyHelp, useKeys } from "./keys";

afterEach(cleanup);

function Page({ run }: { run: () => void }) {
  useKeys([{ key: "c", does: "make a crate", run }]);
  return (
    <>
      <input aria-label="title" />
      <button>press me</button>
      <KeyHelp />
    </>
  );
}

describe("keys of a page", () => {
  it("do what they say, and rest while a person types", async () => {
    const run = vi.fn();
    render(<Page run={run} />);
    await userEvent.keyboard("c");
    expect(run).toHaveBeenCalledTimes(1);
    await userEvent.type(screen.getByLabelText("title"), "c");
    expect(run).toHaveBeenCalledTimes(1);
  });

  it("leave those alone that a browser takes", async () => {
    const run = vi.fn();
    render(<Page run={run} />);
    await userEvent.keyboard("{Control>}c{/Control}");
    expect(run).not.toHaveBeenCalled();
  });

  it("are listed by ?, and put away by Escape", async () => {
    render(<Page run={() => undefined} />);
    expect(screen.queryByText("make a crate")).toBeNull();
    await userEvent.keyboard("?");
    expect(screen.getByText("make a crate")).toBeTruthy();
    await userEvent.keyboard("{Escape}");
    expect(screen.queryByText("make a crate")).toBeNull();
  });

  it("go with their page", async () => {
    const run = vi.fn();
    render(<Page run={run} />).unmount();
    await userEvent.keyboard("c");
    expect(run).not.toHaveBeenCalled();
  });
});
