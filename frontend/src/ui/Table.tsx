import clsx from "clsx";
import type { ReactNode } from "react";

/** A column: what stands at its head, and its classes; "hidden" is said and not shown. */
export type Column = string | { head: ReactNode; className?: string; hidden?: boolean };

/** A table of rows, with what stands over its columns. */
export function Table({
  columns,
  label,
  className = "w-full",
  children,
}: {
  columns?: Column[];
  label?: string;
  className?: string;
  children: ReactNode;
}) {
  return (
    <table className={clsx("rows", className)} aria-label={label}>
      {columns && (
        <thead>
          <tr className="muted">
            {columns.map((column, n) => (
              <Head key={n} column={column} />
            ))}
          </tr>
        </thead>
      )}
      {children}
    </table>
  );
}

function Head({ column }: { column: Column }) {
  if (typeof column === "string") return <th>{column}</th>;
  return (
    <th className={column.className}>
      {column.hidden ? <span className="sr-only">{column.head}</span> : column.head}
    </th>
  );
}

/** Rows, each with a key, under the headings of their groups; a group without rows has none. */
export function Grouped<Row>({
  groups,
  of,
  rows,
  span,
  children,
}: {
  groups: readonly string[];
  of: (row: Row) => string;
  rows: readonly Row[];
  span: number;
  children: (row: Row, n: number) => ReactNode;
}) {
  return groups.map((group) => {
    const inside = rows.filter((row) => of(row) === group);
    return inside.length ? (
      <tbody key={group}>
        <tr className="group">
          <th colSpan={span} scope="rowgroup">
            {group}
          </th>
        </tr>
        {inside.map(children)}
      </tbody>
    ) : null;
  });
}
