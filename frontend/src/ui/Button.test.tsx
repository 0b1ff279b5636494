import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Button } from "./Button";

afterEach(cleanup);

function Form({ sent, pressed }: { sent: () => void; pressed: () => void }) {
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        sent();
      }}
    >
      <input aria-label="name" />
      <Button type="submit">Send</Button>
      <Button tone="ghost" onClick={pressed}>
        Leave
      </Button>
    </form>
  );
}

describe("a button in a form", () => {
  it("sends the form only where it says so", async () => {
    const sent = vi.fn();
    const pressed = vi.fn();
    render(<Form sent={sent} pressed={pressed} />);
    await userEvent.click(screen.getByText("Leave"));
    expect([sent.mock.calls.length, pressed.mock.calls.length]).toEqual([0, 1]);
    await userEvent.click(screen.getByText("Send"));
    expect(sent).toHaveBeenCalledTimes(1);
  });

  it("sends it by Enter too", async () => {
    const sent = vi.fn();
    render(<Form sent={sent} pressed={() => undefined} />);
    await userEvent.type(screen.getByLabelText("name"), "fog{Enter}");
    expect(sent).toHaveBeenCalledTimes(1);
  });

  it("looks as it is asked to", () => {
    render(
      <Button size="sm" tone="primary" tool className="ml-1">
        x
      </Button>,
    );
    expect(screen.getByText("x").className).toBe("btn btn-sm btn-primary btn-tool ml-1");
  });
});
