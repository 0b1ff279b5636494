import { useState } from "react";
import { useTryOrder } from "../../api/mutations/orders";
import { useMasters } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Table } from "../../ui/Table";
import { Problem } from "../../ui/states";
import type { Doc } from "./order";

const SHOWN = 50;

/** A dry run: what an order would do with masters that are here. */
export function TryOrder({ document }: { document: Doc }) {
  const masters = useMasters({ limit: SHOWN });
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const attempt = useTryOrder();
  const rows = masters.data?.rows ?? [];
  const found = new Map((attempt.data ?? []).map((t) => [t.master, t]));
  const turn = (id: number) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <section aria-label="Dry run" className="mt-4">
      <h2 className="font-semibold">Dry run: what it would do with masters that are here</h2>
      <div className="my-1 flex gap-2">
        <Button
          size="sm"
          disabled={!picked.size || attempt.isPending}
          onClick={() => attempt.mutate({ document, masters: [...picked] })}
        >
          Try it on {picked.size}
        </Button>
        <Button size="sm" onClick={() => setPicked(new Set(rows.map((m) => m.id)))}>
          Take the newest {rows.length}
        </Button>
      </div>
      {attempt.isError && <Problem error={attempt.error} />}
      <Table
        label="Masters to try it on"
        columns={[{ head: "take", hidden: true, className: "w-6" }, "master", "file", "it would"]}
      >
        <tbody>
          {rows.map((m) => {
            const one = found.get(m.id);
            return (
              <tr key={m.id}>
                <td>
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm"
                    aria-label={`take ${m.name}`}
                    checked={picked.has(m.id)}
                    onChange={() => turn(m.id)}
                  />
                </td>
                <td className="break-all">{m.name}</td>
                <td className="figure break-all">{one?.file}</td>
                <td className={one?.question ? "border-l-4 border-warning" : ""}>{one?.says}</td>
              </tr>
            );
          })}
        </tbody>
      </Table>
    </section>
  );
}
