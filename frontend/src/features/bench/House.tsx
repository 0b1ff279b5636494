import type { Schemas } from "../../api/client";
import { useBeginAsHouse, useKeepForHouse } from "../../api/mutations/crates";
import { Button } from "../../ui/Button";
import { Problem } from "../../ui/states";

type Props = {
  crate: Schemas["CratePage"];
  one: Schemas["DeliverableOut"];
  /** Which choices, and what they are together. */
  keys: string[];
  what: string;
};

/**
 * Keeps what is chosen for a deliverable as the house's: new crates to the spec begin with it. What
 * is not chosen there, and the house begins with, is left to each crate again.
 */
export function KeepForHouse({ crate, one, keys, what }: Props) {
  const keep = useKeepForHouse(one.id);
  const chosen = keys.some((key) => key in one.chosen);
  const begun = keys.some((key) => key in crate.begins_with);
  if (!chosen && !begun && !keep.data) return null;
  return (
    <div className="min-w-0">
      <Button disabled={keep.isPending} onClick={() => keep.mutate(keys)}>
        {chosen ? `Keep the ${what} for the house` : `Leave the ${what} to each crate`}
      </Button>
      {keep.isError && <Problem error={keep.error} />}
      {keep.data && (
        <p role="status">
          {keep.data.chosen
            ? `Kept in version ${keep.data.version} of the spec: new crates begin with it.`
            : `Version ${keep.data.version} of the spec leaves it to each crate.`}
        </p>
      )}
    </div>
  );
}

type Given = {
  crate: Schemas["CratePage"];
  one: Schemas["DeliverableOut"];
};

/** What the house begins with and is chosen otherwise here. */
export function OtherThanHouse({ crate, one }: Given) {
  const begin = useBeginAsHouse(one.id);
  const other = Object.entries(crate.begins_with).filter(
    ([key, value]) => String(one.chosen[key] ?? "") !== value,
  );
  if (!other.length) return null;
  return (
    <div role="group" aria-label="The house begins with" className="mb-2">
      The house begins with{" "}
      {other.map(([key, value]) => `${key.replace(/^either\./, "")} ${value}`).join(", ")}; it is
      otherwise here.{" "}
      <Button disabled={begin.isPending} onClick={() => begin.mutate()}>
        Choose as the house does
      </Button>
      {begin.isError && <Problem error={begin.error} />}
      {begin.data && (
        <ul role="status" className="list-disc pl-5">
          {begin.data.left_out.map((l) => (
            <li key={l.what}>
              Not taken: {l.what}. {l.why} {l.way_out}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
