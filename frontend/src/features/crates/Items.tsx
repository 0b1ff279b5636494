import { useState } from "react";
import type { Schemas } from "../../api/client";
import { bytes } from "../../ui/format";
import { Button } from "../../ui/Button";
import { useChoiceInAddress } from "../../ui/address";
import { ForMany } from "./ForMany";
import { GridHead, GridTable } from "./Grid";
import { ItemState } from "./ItemState";
import { Names } from "./Names";
import { Requirements } from "./Requirements";
import { SheetOfCrate } from "./SheetOfCrate";
import type { useGrid } from "./useGrid";

type Page = Schemas["CratePage"];
type Deliverable = Schemas["DeliverableOut"];
export type ItemRow = {
  id: number;
  item: string;
  words: string;
  strip: Schemas["StripOut"];
  one: Deliverable;
};
export const MANY = 6; // items from which on they are shown in a grid
const VIEWS = ["labels", "grid", "by requirement"] as const;
export type View = (typeof VIEWS)[number];

/** The items of a crate as rows of a grid. */
export const rowsOf = (crate: Page): ItemRow[] =>
  crate.deliverables.flatMap((one) => {
    const strip = crate.strips.find((s) => s.deliverable === one.id);
    return strip
      ? [{ id: one.id, item: one.item, words: `${one.item} ${one.name}`, strip, one }]
      : [];
  });

/** How the items of a crate are shown; many are in a grid where nobody says otherwise. */
export const useView = (count: number) =>
  useChoiceInAddress<View>("view", VIEWS, count > MANY ? "grid" : "labels");

/** The ways to see the items of a crate. */
export function Views({ view, setView }: { view: View; setView: (view: View) => void }) {
  return (
    <div role="group" aria-label="Items as" className="flex gap-1">
      {VIEWS.map((one) => (
        <button
          key={one}
          type="button"
          className={`btn btn-xs min-h-7 ${one === view ? "btn-secondary" : ""}`}
          aria-pressed={one === view}
          onClick={() => setView(one)}
        >
          {one}
        </button>
      ))}
    </div>
  );
}

const TOOLS = ["one choice for all", "names", "sheet"] as const;
type Tool = (typeof TOOLS)[number];

/** The items of a crate in a grid, or by requirement, with what can be done for many at once. */
export function Items({
  crate,
  view,
  setView,
  grid,
  at,
  setAt,
}: {
  crate: Page;
  view: "grid" | "by requirement";
  setView: (view: View) => void;
  grid: ReturnType<typeof useGrid<ItemRow>>;
  at?: number;
  setAt: (id: number) => void;
}) {
  const [tool, setTool] = useState<Tool | null>(null);
  const chosen = (grid.picked.length ? grid.picked : grid.shown).map((r) => r.one);
  const open = crate.state === "open";
  return (
    <section aria-label="Items of the crate">
      <GridHead grid={grid} before={<Views view={view} setView={setView} />}>
        {open &&
          TOOLS.map((one) => (
            <Button
              key={one}
              className="min-h-7"
              aria-expanded={tool === one}
              onClick={() => setTool(tool === one ? null : one)}
            >
              {one}
            </Button>
          ))}
        {!open && (
          <a className="btn btn-xs min-h-7" href={`/api/crates/${crate.id}/sheet.csv`} download>
            Sheet of the items
          </a>
        )}
      </GridHead>
      {tool === "one choice for all" && open && <ForMany crate={crate.id} items={chosen} />}
      {tool === "names" && open && <Names crate={crate.id} items={chosen} />}
      {tool === "sheet" && open && <SheetOfCrate crate={crate.id} />}
      {view === "grid" ? (
        <GridTable
          grid={grid}
          at={at}
          more={["doing", "file", { head: "size", className: "text-right" }]}
          open={(r) => (
            <button className="text-left font-semibold hover:underline" onClick={() => setAt(r.id)}>
              {r.item}
            </button>
          )}
          cells={(r) => (
            <>
              <td>
                <ItemState deliverable={r.one} />
              </td>
              <td className="figure text-xs break-all">{r.one.name}</td>
              <td className="figure text-right whitespace-nowrap">
                {bytes(r.one.finished?.size ?? r.one.predicted_size)}
              </td>
            </>
          )}
        />
      ) : (
        <Requirements items={grid.shown.map((r) => r.one)} at={at} choose={setAt} />
      )}
    </section>
  );
}
