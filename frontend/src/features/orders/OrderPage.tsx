import { Link, useNavigate, useParams } from "react-router-dom";
import { useForgetOrder } from "../../api/mutations/orders";
import { useOrder } from "../../api/queries";
import { Button } from "../../ui/Button";
import { PageHead } from "../../ui/PageHead";
import { Table } from "../../ui/Table";
import { useAddress } from "../../ui/address";
import { clock } from "../../ui/format";
import { Empty, Loading, Problem } from "../../ui/states";
import { Asked } from "./Asked";
import { NothingArrives, OnOff } from "./Orders";
import { said, STATES } from "./words";

/** An order: what it says, what arrived under it, what it asks, and what it did. */
export function OrderPage() {
  const id = useParams().id ?? "";
  const go = useNavigate();
  const [asked, setAsked] = useAddress("state", "");
  const state = STATES.find((s) => s === asked);
  const page = useOrder(id, state);
  const forget = useForgetOrder({ onSuccess: () => void go("/orders") });
  if (page.isPending) return <Loading what="the order" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  const order = page.data;
  return (
    <>
      <PageHead title={order.title}>
        {!order.on && (
          <Button size="sm" disabled={forget.isPending} onClick={() => forget.mutate(id)}>
            Forget it
          </Button>
        )}
        <a
          className="btn btn-sm"
          download={`${order.id}.yaml`}
          href={`data:application/yaml;charset=utf-8,${encodeURIComponent(order.yaml)}`}
        >
          As YAML
        </a>
        <Link className="btn btn-sm" to={`/orders/${order.id}/edit`}>
          Change it
        </Link>
      </PageHead>
      {forget.isError && <Problem error={forget.error} />}
      <p className="mb-2">{order.sentence}</p>
      <p className="mb-2 flex flex-wrap items-center gap-2">
        <OnOff order={order} />
        {order.since && <span className="muted">since {clock(order.since)}</span>}
      </p>
      <NothingArrives order={order} />
      {order.items
        .filter((i) => i.state === "asks")
        .map((i) => (
          <Asked key={i.id} item={i} />
        ))}
      <div role="group" aria-label="What is shown" className="my-2 flex flex-wrap gap-1">
        {["", ...STATES].map((s) => (
          <Button
            key={s}
            className={`min-h-7 ${s === asked ? "btn-secondary" : ""}`}
            aria-pressed={s === asked}
            onClick={() => setAsked(s)}
          >
            {s ? said(s as (typeof STATES)[number]) : "all"}{" "}
            <span className="figure">
              {s ? (order.counts[s] ?? 0) : Object.values(order.counts).reduce((a, b) => a + b, 0)}
            </span>
          </Button>
        ))}
      </div>
      {order.items.length === 0 ? (
        <Empty title="Nothing is here">What arrives stands here, and where it is now.</Empty>
      ) : (
        <Table label="What arrived" columns={["arrived", "master", "crate", "state", "now"]}>
          <tbody>
            {order.items.map((i) => (
              <tr key={i.id}>
                <td className="figure whitespace-nowrap">{clock(i.arrived_at)}</td>
                <td className="break-all">
                  {i.master === null ? (
                    i.name
                  ) : (
                    <Link className="hover:underline" to={`/masters/${i.master}`}>
                      {i.name}
                    </Link>
                  )}
                </td>
                <td>
                  {i.crate !== null && (
                    <Link className="font-stencil hover:underline" to={`/crates/${i.crate}`}>
                      {i.number}
                    </Link>
                  )}
                </td>
                <td>{said(i.state)}</td>
                <td>{i.said}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      <details className="mt-3">
        <summary className="min-h-7 cursor-pointer">What it did</summary>
        <ol className="figure text-sm">
          {order.log.map((line, n) => (
            <li key={n}>
              {clock(line.at)} {line.what}
            </li>
          ))}
        </ol>
      </details>
    </>
  );
}
