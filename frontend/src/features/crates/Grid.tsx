import clsx from "clsx";
import { useEffect, useRef, type ReactNode } from "react";
import { Strip } from "../../ui/VerdictBadge";
import { type Column, Table } from "../../ui/Table";
import { TextField } from "../../ui/Field";
import { LOOKS, said } from "./look";
import type { GridRow, useGrid } from "./useGrid";

type Grid<Row extends GridRow> = ReturnType<typeof useGrid<Row>>;

/** Filters over many items, with how many each leaves. */
export function GridHead<Row extends GridRow>({
  grid,
  before,
  children,
}: {
  grid: Grid<Row>;
  before?: ReactNode;
  children?: ReactNode;
}) {
  return (
    <div role="search" aria-label="Items" className="mb-2 flex flex-wrap items-center gap-2">
      {before}
      <div role="group" aria-label="Show" className="flex flex-wrap gap-1">
        {LOOKS.map((look) => (
          <button
            key={look}
            type="button"
            className={clsx("btn btn-xs min-h-7", grid.look === look && "btn-secondary")}
            aria-pressed={grid.look === look}
            onClick={() => grid.setLook(look)}
          >
            {look} <span className="figure">{grid.counts[look]}</span>
          </button>
        ))}
      </div>
      <TextField
        type="search"
        className="w-40"
        aria-label="find items"
        placeholder="find items"
        value={grid.search}
        onChange={(e) => grid.setSearch(e.target.value)}
      />
      {grid.picked.length > 0 && <span role="status">{grid.picked.length} picked</span>}
      {children}
    </div>
  );
}

/** Many items as strips of verdicts, the worst first. */
export function GridTable<Row extends GridRow>({
  grid,
  at,
  more,
  open,
  cells,
  tall = false,
}: {
  grid: Grid<Row>;
  /** Whether nothing stands below it. */
  tall?: boolean;
  at?: number;
  /** Columns of a page's own, and what stands in them. */
  more: Column[];
  cells: (row: Row) => ReactNode;
  open: (row: Row) => ReactNode;
}) {
  const here = useRef<HTMLTableRowElement>(null);
  useEffect(() => {
    here.current?.scrollIntoView?.({ block: "nearest" });
  }, [at]);
  const pick = (
    <input
      type="checkbox"
      className="checkbox checkbox-xs"
      aria-label="pick all that are shown"
      checked={grid.all}
      onChange={grid.pickAll}
    />
  );
  return (
    <div
      className={clsx("mb-3 border border-base-300", !tall && "max-h-96 overflow-auto")}
      role="region"
      aria-label="Items in a grid"
    >
      <Table
        label="Items"
        columns={[{ head: pick, className: "w-6" }, "item", "verdicts", "to look at", ...more]}
      >
        <tbody>
          {grid.shown.map((row) => (
            <tr
              key={row.id}
              ref={row.id === at ? here : undefined}
              aria-current={row.id === at || undefined}
              className={clsx(row.id === at && "bg-base-300")}
              data-item={row.id}
            >
              <td>
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  aria-label={`pick ${row.item}`}
                  checked={grid.isPicked(row.id)}
                  onChange={() => grid.pick(row.id)}
                />
              </td>
              <td>{open(row)}</td>
              <td className="whitespace-nowrap">
                <Strip strip={row.strip} />
              </td>
              <td>{said(row.strip)}</td>
              {cells(row)}
            </tr>
          ))}
        </tbody>
      </Table>
      {grid.shown.length === 0 && <p className="muted p-3">No item is like this.</p>}
    </div>
  );
}
