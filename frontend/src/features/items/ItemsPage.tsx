import { Link, useNavigate, useSearchParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useRunCrates } from "../../api/mutations/many";
import { useFloor } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Notice } from "../../ui/Notice";
import { PageHead } from "../../ui/PageHead";
import { useAddress } from "../../ui/address";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { GridHead, GridTable } from "../crates/Grid";
import { useGrid } from "../crates/useGrid";
import { ReadyLine } from "../floor/Floor";

type Crate = Schemas["CrateOut"];
type Row = {
  id: number;
  item: string;
  words: string;
  strip: Schemas["StripOut"];
  crate: Crate;
};

const rowsOf = (crates: Crate[]): Row[] =>
  crates.flatMap((crate) =>
    crate.strips.map((strip) => ({
      id: strip.deliverable,
      item: strip.name,
      words: [strip.name, crate.number, crate.title, crate.recipient.name, crate.spec_title].join(
        " ",
      ),
      strip,
      crate,
    })),
  );

/** The items of many crates in one look: of those in the address, or of all that are due. */
export function ItemsPage() {
  const floor = useFloor();
  const [query] = useSearchParams();
  if (floor.isPending) return <Loading what="the items" />;
  if (!floor.data) return <Problem error={floor.error} again={() => void floor.refetch()} />;
  const named = (query.get("crates") ?? "").split(",").map(Number).filter(Boolean);
  const crates = floor.data.crates.filter((c) =>
    named.length ? named.includes(c.id) : c.state !== "received",
  );
  return <Shown crates={crates} some={named.length > 0} />;
}

function Shown({ crates, some }: { crates: Crate[]; some: boolean }) {
  const go = useNavigate();
  const [item, setItem] = useAddress("item", "");
  const run = useRunCrates();
  const rows = rowsOf(crates);
  const grid = useGrid(rows, Number(item) || undefined, (id) => setItem(String(id)));
  const chosen = grid.picked.length ? grid.picked : grid.shown;
  const ids = [
    ...new Set(
      chosen.filter((r) => ["run", "plan"].includes(r.crate.next_step)).map((r) => r.crate.id),
    ),
  ];
  const place = (row: Row) => `/crates/${row.crate.id}?item=${row.id}`;
  const here = grid.shown.find((r) => r.id === Number(item));
  const runAll = () => {
    if (ids.length && !run.isPending) run.mutate(ids);
  };
  useKeys([
    ...grid.keys,
    { key: "Enter", does: "open the item's crate", run: () => here && void go(place(here)) },
    { key: "r", does: "run the crates of these items", run: runAll },
  ]);
  const working = crates.filter((c) => !c.worked_out).length;
  return (
    <>
      <PageHead title={some ? `Items of ${crates.length} crates` : "All items"}>
        {some && (
          <Link className="btn btn-sm" to="/items">
            Items of all crates
          </Link>
        )}
        <Button size="sm" tone="primary" disabled={!ids.length || run.isPending} onClick={runAll}>
          {ids.length === 0
            ? "Nothing is to be run"
            : ids.length === 1
              ? "Run this crate"
              : `Run these ${ids.length} crates`}
        </Button>
      </PageHead>
      {run.isError && <Problem error={run.error} />}
      {run.data && <Begun made={run.data} crates={crates} />}
      {working > 0 && (
        <p role="status" className="muted mb-2">
          {working === 1 ? "One crate is" : `${working} crates are`} being worked out.
        </p>
      )}
      {rows.length === 0 && working === 0 ? (
        <Empty title="There are no items">Make a crate first.</Empty>
      ) : (
        <>
          <GridHead grid={grid} />
          <GridTable
            tall
            grid={grid}
            at={Number(item) || undefined}
            more={["crate", "recipient", "time to ready", "next"]}
            open={(r) => (
              <Link className="font-semibold hover:underline" to={place(r)}>
                {r.item}
              </Link>
            )}
            cells={(r) => (
              <>
                <td>
                  <Link className="hover:underline" to={`/crates/${r.crate.id}`}>
                    <span className="font-stencil">{r.crate.number}</span> {r.crate.title}
                  </Link>
                </td>
                <td>
                  {r.crate.recipient.name}
                  <div className="muted text-xs">{r.crate.spec_title}</div>
                </td>
                <td>
                  <ReadyLine crate={r.crate} />
                </td>
                <td className="whitespace-nowrap">{r.crate.next_step}</td>
              </>
            )}
          />
        </>
      )}
    </>
  );
}

/** Which crates begun to run, and why others did not. */
function Begun({ made, crates }: { made: Schemas["Begun"]; crates: Crate[] }) {
  const number = (id: number) => crates.find((c) => c.id === id)?.number ?? id;
  const not = Object.entries(made.not_begun);
  return (
    <Notice tone={not.length ? "warning" : "accent"} role="status">
      {made.begun.length > 0 && <>Run: {made.begun.map(number).join(", ")}. </>}
      {not.length > 0 && (
        <ul className="list-disc pl-5">
          {not.map(([id, why]) => (
            <li key={id}>
              Not {number(Number(id))}: {why}
            </li>
          ))}
        </ul>
      )}
    </Notice>
  );
}
