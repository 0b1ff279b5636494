import { useState } from "react";
import { type Schemas } from "../../api/client";
import { Problem } from "../../ui/states";
import { Button } from "../../ui/Button";
import { useDismissMasters, useJoinStills, useSetProduction } from "../../api/mutations/masters";

type Master = Schemas["MasterOut"];

/** What can be done with several masters at once. */
export function Selected({
  picked,
  crate,
  several,
  clear,
}: {
  picked: Master[];
  crate: () => void;
  several: () => void;
  clear: () => void;
}) {
  const [production, setProduction] = useState("");
  const [rate, setRate] = useState("25");
  const ids = picked.map((m) => m.id);
  const sort = useSetProduction({ onSuccess: clear });
  const join = useJoinStills({ onSuccess: clear });
  const dismiss = useDismissMasters({ onSuccess: clear });
  const stills = picked.length > 1 && picked.every((m) => m.frames === 1);
  const usable = picked.every((m) => m.state === "ready" || m.state === "measuring");
  return (
    <section
      aria-label="Selected masters"
      className="mb-2 flex flex-wrap items-center gap-2 border-l-4 border-primary bg-base-200 p-2"
    >
      <b>{picked.length} selected</b>
      <Button size="sm" onClick={crate} disabled={!usable}>
        Crate from {picked.length} selected
      </Button>
      <Button size="sm" onClick={several} disabled={!usable}>
        To several recipients
      </Button>
      {stills && (
        <span className="flex items-center gap-1">
          <Button size="sm" onClick={() => join.mutate({ ids, rate })} disabled={join.isPending}>
            Join as one sequence
          </Button>{" "}
          at
          <input
            className="input input-sm figure w-24"
            aria-label="frames a second of the sequence"
            value={rate}
            onChange={(e) => setRate(e.target.value)}
          />{" "}
          frames a second
        </span>
      )}
      <span className="flex items-center gap-1">
        <input
          className="input input-sm w-40"
          aria-label="production of the selected"
          placeholder="production"
          value={production}
          maxLength={200}
          onChange={(e) => setProduction(e.target.value)}
        />
        <Button
          size="sm"
          disabled={!production.trim() || sort.isPending}
          onClick={() => sort.mutate({ ids, production })}
        >
          Put in this production
        </Button>
      </span>
      <Button size="sm" onClick={() => dismiss.mutate(ids)} disabled={dismiss.isPending}>
        Dismiss
      </Button>
      <Button size="sm" tone="ghost" onClick={clear}>
        Select none
      </Button>
      {[sort, join, dismiss].map((m, n) => m.isError && <Problem key={n} error={m.error} />)}
    </section>
  );
}
