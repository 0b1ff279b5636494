import { QueryClient } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";
import { isTopic, keys, touch } from "./keys";

const held = (topics: Parameters<typeof touch>[1]) => {
  const client = new QueryClient();
  const asked = {
    floor: keys.floor,
    master: keys.masters.one(1),
    masters: keys.masters.list({ q: "fog" }),
    spec: keys.specs.one("owlery-hd", 2),
    crate: keys.crates.one(7),
    receipts: keys.receipts,
    vocabulary: keys.vocabulary,
  };
  for (const key of Object.values(asked)) client.setQueryData(key, {});
  void touch(client, topics);
  return Object.entries(asked)
    .filter(([, key]) => client.getQueryState(key)?.isInvalidated)
    .map(([name]) => name);
};

describe("what a change touches", () => {
  it("of a run are crates and the floor", () => {
    expect(held(["run"])).toEqual(["floor", "crate"]);
  });
  it("of a master are all that show it", () => {
    expect(held(["master"])).toEqual(["floor", "master", "masters", "crate"]);
  });
  it("of a spec is never what cannot change under a page", () => {
    expect(held(["spec"])).toEqual(["floor", "master", "masters", "spec", "crate"]);
  });
  it("of several is all of theirs", () => {
    expect(held(["crate", "spec"])).not.toContain("vocabulary");
    expect(held(["crate", "spec"])).toContain("receipts");
  });
});

describe("topics", () => {
  it("are told from other news", () => {
    expect(isTopic("run")).toBe(true);
    expect(isTopic("line")).toBe(false);
  });
});
