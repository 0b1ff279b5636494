import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useAddress, useChoiceInAddress } from "../../ui/address";
import { fits, LOOKS, type Look } from "./look";

export type GridRow = {
  id: number;
  /** What it is made of, and whose it is, for the search. */
  item: string;
  words: string;
  strip: Schemas["StripOut"];
};

/**
 * Many items, the worst first: which are shown, which one is at hand, which are picked. What is
 * looked for stands in the address.
 */
export function useGrid<Row extends GridRow>(
  rows: Row[],
  at: number | undefined,
  setAt: (id: number) => void,
) {
  const [look, setLook] = useChoiceInAddress<Look>("look", LOOKS, "all");
  const [search, setSearch] = useAddress("find", "");
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = rows.filter((r) => words.every((w) => r.words.toLowerCase().includes(w)));
  const shown = found
    .filter((r) => fits(look, r.strip.concerns))
    .sort((a, b) => a.strip.concerns.rank - b.strip.concerns.rank);
  const counts = Object.fromEntries(
    LOOKS.map((l) => [l, found.filter((r) => fits(l, r.strip.concerns)).length]),
  ) as Record<Look, number>;
  const pick = (id: number) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const all = shown.length > 0 && shown.every((r) => picked.has(r.id));
  const pickAll = () => setPicked(new Set(all ? [] : shown.map((r) => r.id)));
  const place = shown.findIndex((r) => r.id === at);
  const move = (by: number) => {
    const next = shown[Math.max(0, Math.min(shown.length - 1, place + by))];
    if (next) setAt(next.id);
  };
  const keys = [
    { key: "ArrowDown", does: "next item", run: () => move(1) },
    { key: "ArrowUp", does: "item before", run: () => move(-1) },
    { key: " ", does: "pick the item, or not", run: () => place >= 0 && pick(at ?? 0) },
    { key: "a", does: "pick all that are shown, or none", run: pickAll },
    ...LOOKS.map((l, n) => ({
      key: String(n + 1),
      does: l === "all" ? "show all items" : `show those: ${l}`,
      run: () => setLook(l),
    })),
  ];
  // What is not shown is not picked: nobody changes what they do not see.
  const chosen = shown.filter((r) => picked.has(r.id));
  return {
    look,
    setLook,
    search,
    setSearch,
    counts,
    shown,
    picked: chosen,
    isPicked: (id: number) => picked.has(id),
    pick,
    all,
    pickAll,
    keys,
  };
}
