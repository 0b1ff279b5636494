import { PageHead } from "../../ui/PageHead";
import { Link } from "react-router-dom";
import { bytes, clock } from "../../ui/format";
import { Empty, Loading, Problem } from "../../ui/states";
import { useReceipts } from "../../api/queries";
import { Table } from "../../ui/Table";

export function Receipts() {
  const list = useReceipts();
  if (list.isPending) return <Loading what="the receipts" />;
  if (!list.data) return <Problem error={list.error} again={() => void list.refetch()} />;
  return (
    <>
      <PageHead title="Receipts">
        <a className="btn btn-sm" href="/api/receipts/key" download>
          Public key of this house
        </a>
      </PageHead>
      {list.data.length === 0 && (
        <Empty title="Nothing has been handed over yet">What recipients answer is kept here.</Empty>
      )}
      {list.data.map((r) => (
        <article key={r.id} className="tape mb-4 bg-base-200 p-3">
          <h2 className="font-semibold">
            <Link className="hover:underline" to={`/crates/${r.crate}`}>
              <span className="font-stencil text-lg">{r.number}</span>
              {r.revision > 1 ? ` r${r.revision}` : ""} {r.title}
            </Link>
          </h2>
          <p>
            {r.recipient}, {clock(r.created_at)},{" "}
            <span className="figure">{bytes(r.sent_bytes)}</span>:{" "}
            <b>{r.accepted ? "accepted" : "refused"}</b>. {r.message}
          </p>
          <Table
            columns={[
              "file",
              { head: "bytes", className: "text-right" },
              "SHA-256 the recipient read",
            ]}
            className="mt-1 w-full"
          >
            <tbody>
              {r.files.map((f) => (
                <tr key={String(f.name)}>
                  <td>{String(f.name)}</td>
                  <td className="figure text-right">{String(f.bytes)}</td>
                  <td className="figure text-xs break-all">{String(f.sha256)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </article>
      ))}
    </>
  );
}
