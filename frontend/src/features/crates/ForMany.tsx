import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChooseForMany } from "../../api/mutations/many";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";
import { Problem } from "../../ui/states";
import { labelOf } from "./requirements";
import { wordOf } from "./words";

type Deliverable = Schemas["DeliverableOut"];

/** What can be chosen for any of some items, with its words. */
export function choosable(items: Deliverable[]): { key: string; word: string }[] {
  const rows = new Map(
    items.flatMap((d) => d.rows.map((r) => [r.property, `${r.group}: ${labelOf(r)}`])),
  );
  return [...new Set(items.flatMap((d) => Object.keys(d.choices)))]
    .map((key) => ({ key, word: rows.get(key) ?? wordOf(key) }))
    .sort((a, b) => a.word.localeCompare(b.word));
}

/** Chooses one value for many items; each takes what it can, and the others are named. */
export function ForMany({ crate, items }: { crate: number; items: Deliverable[] }) {
  const [key, setKey] = useState("");
  const [value, setValue] = useState("");
  const choose = useChooseForMany(crate);
  const known = choosable(items);
  const options = items.find((d) => d.options[key])?.options[key];
  const count = items.length === 1 ? "this item" : `these ${items.length} items`;
  const take = (to: string | null) =>
    choose.mutate({ to: items.map((d) => d.id), choices: { [key]: to } });
  return (
    <form
      aria-label="One choice for many"
      className="mb-2 flex flex-wrap items-center gap-2 border-l-4 border-primary bg-base-200 p-2"
      onSubmit={(e) => {
        e.preventDefault();
        take(value);
      }}
    >
      <label>
        Choose for {count}{" "}
        <Select
          value={known.some((k) => k.key === key) ? key : ""}
          onChange={(e) => {
            setKey(e.target.value);
            setValue("");
          }}
        >
          <option value="">what</option>
          {known.map((k) => (
            <option key={k.key} value={k.key}>
              {k.word}
            </option>
          ))}
        </Select>
      </label>
      {key && options && (
        <Select aria-label="value" value={value} onChange={(e) => setValue(e.target.value)}>
          <option value="">which</option>
          {options
            .filter((o) => o.value !== "")
            .map((o) => (
              <option key={o.value} value={o.value}>
                {o.label}
              </option>
            ))}
        </Select>
      )}
      {key && !options && (
        <TextField
          className="w-40"
          aria-label="value"
          value={value}
          onChange={(e) => setValue(e.target.value)}
        />
      )}
      <Button
        type="submit"
        className="min-h-7"
        disabled={!key || !value.trim() || choose.isPending}
      >
        Choose it
      </Button>
      <Button
        tone="ghost"
        className="min-h-7"
        disabled={!key || choose.isPending}
        onClick={() => take(null)}
      >
        As planned
      </Button>
      {choose.isError && <Problem error={choose.error} />}
      {choose.data && <Taken made={choose.data} />}
    </form>
  );
}

function Taken({ made }: { made: Schemas["CarriedOver"] }) {
  return (
    <div role="status" className="basis-full">
      Chosen for {made.to.length === 1 ? "one item" : `${made.to.length} items`}.
      {made.left_out.length > 0 && (
        <ul className="list-disc pl-5">
          {made.left_out.map((l) => (
            <li key={`${l.item} ${l.what}`}>
              Not for {l.item}: {l.what}. {l.why} {l.way_out}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
