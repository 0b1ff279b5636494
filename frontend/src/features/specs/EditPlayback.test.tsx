import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { type Doc, empty } from "./document";
import { Playback } from "./EditPlayback";

afterEach(cleanup);

/** Shows the part for a document, and gives what it was last set to. */
function shown(doc: Doc) {
  const told: Doc[] = [];
  render(<Playback doc={doc} set={(next) => told.push(next)} wrong={[]} />);
  return () => told.at(-1)?.playback;
}

describe("how a spec says it is played", () => {
  it("begins with the first way that is taken", () => {
    const last = shown(empty());
    expect(screen.queryByLabelText("Layers at once")).toBeNull();
    fireEvent.click(screen.getByLabelText("to and fro"));
    expect(last()).toEqual({ ways: ["ping-pong"] });
  });

  it("keeps the ways in their order, and the rest as it is", () => {
    const last = shown({ ...empty(), playback: { ways: ["random"], layers: 2, source: "5" } });
    fireEvent.click(screen.getByLabelText("forwards"));
    expect(last()).toEqual({ ways: ["forwards", "random"], layers: 2, source: "5" });
    fireEvent.change(screen.getByLabelText(/May come late/), { target: { value: "7 of" } });
    expect(last()).toMatchObject({ late: 7, ways: ["random"] });
  });

  it("is not asked any more when no way is left", () => {
    const last = shown({ ...empty(), playback: { ways: ["random"] } });
    fireEvent.click(screen.getByLabelText("anywhere"));
    expect(last()).toBeNull();
  });
});
