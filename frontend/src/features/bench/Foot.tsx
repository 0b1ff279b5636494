import type { Schemas } from "../../api/client";
import { useStepBack } from "../../api/mutations/crates";
import { Button } from "../../ui/Button";
import { Problem } from "../../ui/states";
import { CarryOver } from "./CarryOver";
import { KeepForHouse } from "./House";

/** What each part of the bench is given; `open` says whether anything can be chosen. */
export type Part = {
  crate: Schemas["CratePage"];
  one: Schemas["DeliverableOut"];
  open: boolean;
};
type Way = "undo" | "redo";

/** Steps back and forth through what was chosen for a deliverable. */
export function useBack(one: Schemas["DeliverableOut"]) {
  const back = useStepBack(one.id);
  const step = (way: Way) => {
    if (way === "undo" ? one.can_undo : one.can_redo) back.mutate(way);
  };
  const keys = [
    { key: "u", does: "undo", run: () => step("undo") },
    { key: "U", does: "redo", run: () => step("redo") },
  ];
  return { step, keys, error: back.error, pending: back.isPending };
}

/** Under each part of the bench: what was chosen is taken back, or carried over. */
export function Foot({
  crate,
  one,
  keys,
  of = [],
  what,
}: Omit<Part, "open"> & {
  /** What can be carried over, and what it is called; a range is of its own master. */
  keys?: string[];
  /** What can be carried over besides, but is of a master, and not kept for the house. */
  of?: string[];
  what?: string;
}) {
  const { step, error, pending } = useBack(one);
  return (
    <div className="mt-2 flex flex-wrap items-start gap-2">
      <Button disabled={!one.can_undo || pending} onClick={() => step("undo")}>
        Undo
      </Button>
      <Button disabled={!one.can_redo || pending} onClick={() => step("redo")}>
        Redo
      </Button>
      {keys && what && <CarryOver one={one} keys={[...keys, ...of]} what={what} />}
      {keys && what && <KeepForHouse crate={crate} one={one} keys={keys} what={what} />}
      {error && <Problem error={error} />}
    </div>
  );
}
