import { type Schemas } from "../../api/client";
import { PageHead } from "../../ui/PageHead";
import { bytes, clock } from "../../ui/format";
import { Loading, Problem } from "../../ui/states";
import { useTidy } from "../../api/mutations/housekeeping";
import { useHousekeeping } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Table } from "../../ui/Table";

import { Foretold } from "./Foretold";

type Page = Schemas["HousekeepingOut"];

/** The disk, what takes it and what bounds it, and what the daily tidying cleared away. */
export function Housekeeping() {
  const page = useHousekeeping();
  const tidy = useTidy();
  if (page.isPending) return <Loading what="what takes room" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  return (
    <>
      <PageHead title="Housekeeping">
        <Button size="sm" tone="primary" onClick={() => tidy.mutate()} disabled={tidy.isPending}>
          Tidy now
        </Button>
      </PageHead>
      {tidy.isError && <Problem error={tidy.error} />}
      {tidy.isSuccess && (
        <p role="status" className="mb-2 bg-base-200 p-2">
          Ordered. What it clears away is listed below when it is done.
        </p>
      )}
      <Disk page={page.data} />
      <Foretold />
      <Holdings page={page.data} />
      <Tidyings page={page.data} />
    </>
  );
}

function Disk({ page }: { page: Page }) {
  const used = page.disk_total - page.disk_free;
  return (
    <section aria-label="Disk" className="tape mb-4 bg-base-200 px-3 py-2">
      <p>
        <b className="figure">{bytes(page.disk_free)}</b> free of{" "}
        <span className="figure">{bytes(page.disk_total)}</span> on the disk of{" "}
        <span className="figure">{page.place}</span>.
      </p>
      <progress
        className="progress progress-secondary w-full"
        max={page.disk_total}
        value={used}
        aria-label="share of the disk that is taken"
      />
      <p className="muted">
        Workers with a sign of life: {page.workers}. Work that waits: {page.waiting}, that is being
        done: {page.at_work}. The database takes {bytes(page.database_bytes)}.
      </p>
    </section>
  );
}

function Holdings({ page }: { page: Page }) {
  return (
    <Table
      columns={[
        "what",
        { head: "files", className: "text-right" },
        { head: "size", className: "text-right" },
        "is kept",
      ]}
      label="What takes room"
      className="mb-4 w-full"
    >
      <tbody>
        {page.holdings.map((h) => (
          <tr key={h.name}>
            <td>
              <b>{h.name}</b>
              <div className="muted">{h.what}</div>
            </td>
            <td className="figure text-right">{h.files}</td>
            <td className="figure text-right whitespace-nowrap">{bytes(h.bytes)}</td>
            <td>{h.bound}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

const PARTS = [
  ["pictures", "pictures"],
  ["proxies", "proxies"],
  ["crates", "removed crates"],
  ["runs", "runs of crates that are no more"],
  ["uploads", "uploads"],
  ["jobs", "finished jobs"],
  ["trials", "earlier trials of paces"],
  ["logs", "logs cut"],
] as const;

function Tidyings({ page }: { page: Page }) {
  const said = (t: Page["tidyings"][number]) =>
    PARTS.filter(([key]) => t[key])
      .map(([key, name]) => `${t[key]} ${name}`)
      .join(", ") || "nothing was over its bounds";
  return (
    <section aria-label="Tidied">
      <h2 className="font-semibold">Tidied</h2>
      <p className="muted">Once a day by itself.</p>
      <ul>
        {page.tidyings.map((t) => (
          <li key={t.at} className="py-0.5">
            <span className="figure">{clock(t.at)}</span> {said(t)}
            {t.bytes > 0 && <span className="muted"> ({bytes(t.bytes)})</span>}
          </li>
        ))}
      </ul>
      {page.tidyings.length === 0 && <p>Not yet.</p>}
    </section>
  );
}
