import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Problem } from "../../ui/states";
import { touch } from "../../api/keys";
import { Button } from "../../ui/Button";

type Master = Schemas["MasterOut"];

/** What can be done with several masters at once. */
export function Selected({
  picked,
  crate,
  clear,
}: {
  picked: Master[];
  crate: () => void;
  clear: () => void;
}) {
  const client = useQueryClient();
  const [production, setProduction] = useState("");
  const [rate, setRate] = useState("25");
  const settled = () => void touch(client, ["master"]);
  const sort = useMutation({
    mutationFn: () =>
      Promise.all(
        picked.map((m) =>
          unwrap(
            api.PATCH("/api/masters/{id}", {
              params: { path: { id: m.id } },
              body: { production },
            }),
          ),
        ),
      ),
    onSuccess: clear,
    onSettled: settled,
  });
  const join = useMutation({
    mutationFn: () =>
      unwrap(api.POST("/api/intake/join", { body: { ids: picked.map((m) => m.id), rate } })),
    onSuccess: clear,
    onSettled: settled,
  });
  const dismiss = useMutation({
    mutationFn: () =>
      Promise.all(
        picked.map((m) =>
          unwrap(api.DELETE("/api/masters/{id}", { params: { path: { id: m.id } } })),
        ),
      ),
    onSuccess: clear,
    onSettled: settled,
  });
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
      {stills && (
        <span className="flex items-center gap-1">
          <Button size="sm" onClick={() => join.mutate()} disabled={join.isPending}>
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
          onClick={() => sort.mutate()}
        >
          Put in this production
        </Button>
      </span>
      <Button size="sm" onClick={() => dismiss.mutate()} disabled={dismiss.isPending}>
        Dismiss
      </Button>
      <Button size="sm" tone="ghost" onClick={clear}>
        Select none
      </Button>
      {[sort, join, dismiss].map((m, n) => m.isError && <Problem key={n} error={m.error} />)}
    </section>
  );
}
