import { Plus } from "lucide-react";
import { Link, useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useSwitchOrder } from "../../api/mutations/orders";
import { useOrders } from "../../api/queries";
import { Button } from "../../ui/Button";
import { PageHead } from "../../ui/PageHead";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { Asked } from "./Asked";
import { counted } from "./words";

/** What runs by itself: each order as a sentence, how it fares, and what it asks. */
export function Orders() {
  const go = useNavigate();
  const orders = useOrders();
  useKeys([{ key: "n", does: "new order", run: () => void go("/orders/new") }]);
  if (orders.isPending) return <Loading what="the orders" />;
  if (!orders.data) return <Problem error={orders.error} again={() => void orders.refetch()} />;
  return (
    <>
      <PageHead title="Orders">
        <Link className="btn btn-primary btn-sm" to="/orders/new">
          <Plus size={15} aria-hidden /> New order
        </Link>
      </PageHead>
      {orders.data.length === 0 && (
        <Empty title="Nothing goes by itself yet">
          An order has what arrives in a folder delivered by a spec, without a person while all is
          well.
        </Empty>
      )}
      {orders.data.map((o) => (
        <One key={o.id} order={o} />
      ))}
    </>
  );
}

function One({ order }: { order: Schemas["OrderOut"] }) {
  return (
    <article
      aria-label={order.title}
      className="mb-3 flex flex-col gap-1 border-b border-base-300 pb-2"
    >
      <h2 className="text-base">
        <Link className="inline-block min-h-7 hover:underline" to={`/orders/${order.id}`}>
          <b>{order.title}.</b> {order.sentence}
        </Link>
      </h2>
      <p className="flex flex-wrap items-center gap-2">
        <OnOff order={order} />
        <span className="muted">{counted(order.counts) || "nothing has arrived yet"}</span>
      </p>
      <NothingArrives order={order} />
      {order.asks && <Asked item={order.asks} />}
    </article>
  );
}

/** Why nothing can arrive under an order. */
export function NothingArrives({ order }: { order: Schemas["OrderOut"] }) {
  if (order.trouble === null) return null;
  return (
    <p role="status" className="border-l-4 border-warning bg-base-200 px-2">
      <b>Nothing can arrive.</b> {order.trouble}
    </p>
  );
}

/** Whether an order is on, and the way to change it. */
export function OnOff({ order }: { order: Schemas["OrderOut"] }) {
  const turn = useSwitchOrder();
  return (
    <>
      <b className={order.on ? "text-success" : ""}>{order.on ? "on" : "off"}</b>
      <Button
        className="min-h-7"
        aria-label={`${order.on ? "Turn off" : "Turn on"} ${order.title}`}
        disabled={turn.isPending}
        onClick={() => turn.mutate({ id: order.id, on: !order.on })}
      >
        {order.on ? "Turn off" : "Turn on"}
      </Button>
      {turn.isError && <Problem error={turn.error} />}
    </>
  );
}
