import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCarryOver } from "../../api/mutations/crates";
import { useAlike } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Problem } from "../../ui/states";

type Props = {
  one: Schemas["DeliverableOut"];
  /** Which choices, and what they are together. */
  keys: string[];
  what: string;
};

/**
 * Chooses the same for others of the crate, and for the same master in other open crates; names
 * what does not fit them.
 */
export function CarryOver({ one, keys, what }: Props) {
  const others = useAlike(one.id).data ?? [];
  const [to, setTo] = useState<number[]>([]);
  const carry = useCarryOver(one.id);
  if (!others.length) return null;
  const turn = (id: number, on: boolean) =>
    setTo(on ? [...to, id] : to.filter((other) => other !== id));
  return (
    <details className="min-w-0">
      <summary className="btn btn-xs">Carry the {what} over</summary>
      <div className="mt-1 border border-base-300 p-2">
        {others.map((d) => (
          <label key={d.id} className="block">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={to.includes(d.id)}
              onChange={(e) => turn(d.id, e.target.checked)}
            />{" "}
            {d.name}
          </label>
        ))}
        <Button
          className="mt-1"
          disabled={!to.length || carry.isPending}
          onClick={() => carry.mutate({ to, keys })}
        >
          To {to.length === 1 ? "this one" : `these ${to.length}`}
        </Button>
        {carry.isError && <Problem error={carry.error} />}
        {carry.data && (
          <div role="status" className="mt-1">
            <p>Carried over to {carry.data.to.join(", ") || "none of them"}.</p>
            <ul className="list-disc pl-5">
              {carry.data.left_out.map((l) => (
                <li key={`${l.item} ${l.what}`}>
                  Not for {l.item}: {l.what}. {l.why} {l.way_out}
                </li>
              ))}
            </ul>
          </div>
        )}
      </div>
    </details>
  );
}
