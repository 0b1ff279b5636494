import { describe, expect, it } from "vitest";
import { type Doc, empty } from "./document";
import { history, type Past } from "./history";

const titled = (title: string): Doc => ({ ...empty(), title });
const begun: Past = { before: [], now: titled("a"), after: [], mark: "" };

describe("the history of a document", () => {
  it("goes back and forth one step at a time", () => {
    const two = history(history(begun, { doc: titled("b") }), { doc: titled("c") });
    const back = history(two, "undo");
    expect(back.now.title).toBe("b");
    expect(history(back, "undo").now.title).toBe("a");
    expect(history(back, "redo").now.title).toBe("c");
  });

  it("takes steps on one field in a row as one", () => {
    const typed = ["b", "bc", "bcd"].reduce(
      (past, title) => history(past, { doc: titled(title), mark: "title" }),
      begun,
    );
    expect(history(typed, "undo").now.title).toBe("a");
    const other = history(typed, { doc: titled("x"), mark: "summary" });
    expect(history(other, "undo").now.title).toBe("bcd");
  });

  it("forgets what was undone once something else is done", () => {
    const back = history(history(begun, { doc: titled("b") }), "undo");
    const other = history(back, { doc: titled("z") });
    expect(history(other, "redo")).toEqual(other);
  });

  it("stands still at either end", () => {
    expect(history(begun, "undo")).toBe(begun);
    expect(history(begun, "redo")).toBe(begun);
  });

  it("keeps at most two hundred steps", () => {
    let past = begun;
    for (let n = 0; n < 300; n += 1) past = history(past, { doc: titled(String(n)) });
    expect(past.before).toHaveLength(200);
  });
});
