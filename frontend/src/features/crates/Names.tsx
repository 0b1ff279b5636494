import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useFillNames } from "../../api/mutations/many";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Table } from "../../ui/Table";
import { Problem } from "../../ui/states";

type Deliverable = Schemas["DeliverableOut"];
const NAME = "name.";

/** The fields of names that some items have. */
export const fieldsOf = (items: Deliverable[]) => [
  ...new Set(
    items.flatMap((d) =>
      Object.keys(d.choices)
        .filter((k) => k.startsWith(NAME))
        .map((k) => k.slice(NAME.length)),
    ),
  ),
];

/**
 * Fills in the names of many items: read from what their masters are called, counted, or the same
 * for all. They are looked at before they are kept.
 */
export function Names({ crate, items }: { crate: number; items: Deliverable[] }) {
  const fields = fieldsOf(items);
  const [pattern, setPattern] = useState("");
  const [first, setFirst] = useState("1");
  const [texts, setTexts] = useState<Record<string, string>>({});
  const look = useFillNames(crate);
  const keep = useFillNames(crate);
  const wanted = Object.fromEntries(
    Object.entries(texts).filter(([field, text]) => fields.includes(field) && text !== ""),
  );
  const ready = Object.keys(wanted).length > 0 && /^\d{1,6}$/.test(first);
  const ask = (way: typeof look, kept: boolean) =>
    way.mutate({
      to: items.map((d) => d.id),
      fields: wanted,
      pattern,
      first: Number(first),
      keep: kept,
    });
  const changed = (set: () => void) => {
    look.reset();
    keep.reset();
    set();
  };
  if (!fields.length)
    return <p className="muted mb-2">These names have nothing to be filled in.</p>;
  const count = items.length === 1 ? "one item" : `${items.length} items`;
  const wrong = look.data?.filter((n) => n.wrong).length ?? 0;
  return (
    <form
      aria-label="Names of many"
      className="mb-2 border-l-4 border-primary bg-base-200 p-2"
      onSubmit={(e) => {
        e.preventDefault();
        ask(look, false);
      }}
    >
      <p className="mb-1">
        Names of {count}. Write plain text, <code>{"{number}"}</code> or{" "}
        <code>{"{number:03}"}</code> to count, or a field in braces that is read from the
        masters&apos; names.
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        {fields.map((field) => (
          <label key={field} className="flex items-center gap-1">
            {field}
            <TextField
              className="w-32"
              value={texts[field] ?? ""}
              onChange={(e) => changed(() => setTexts({ ...texts, [field]: e.target.value }))}
            />
          </label>
        ))}
        <label className="flex items-center gap-1">
          masters are called{" "}
          <TextField
            className="w-56"
            aria-label="masters are called"
            placeholder="lichen_hours_e{episode}_{*}"
            value={pattern}
            onChange={(e) => changed(() => setPattern(e.target.value))}
          />
        </label>
        <label className="flex items-center gap-1">
          count from{" "}
          <TextField
            className="w-14"
            aria-label="count from"
            inputMode="numeric"
            value={first}
            onChange={(e) => changed(() => setFirst(e.target.value))}
          />
        </label>
        <Button type="submit" className="min-h-7" disabled={!ready || look.isPending}>
          Look at the names
        </Button>
        {look.data && (
          <Button
            tone="secondary"
            className="min-h-7"
            disabled={keep.isPending || wrong === look.data.length}
            onClick={() => ask(keep, true)}
          >
            Keep {wrong > 0 ? `the ${look.data.length - wrong} that fit` : "these names"}
          </Button>
        )}
      </div>
      {look.isError && <Problem error={look.error} />}
      {keep.isError && <Problem error={keep.error} />}
      {keep.data && <p role="status">The names are kept; each can be undone on its bench.</p>}
      {look.data && !keep.data && <Shown names={look.data} />}
    </form>
  );
}

function Shown({ names }: { names: Schemas["NamedOut"][] }) {
  return (
    <div className="mt-2">
      <Table label="Names as they would be" columns={["item", "file"]}>
        <tbody>
          {names.map((n) => (
            <tr key={n.id}>
              <td>{n.item}</td>
              <td>
                {n.wrong ? (
                  <>
                    <b>Not filled in.</b> {n.wrong} {n.way_out}
                  </>
                ) : (
                  <span className="figure">{n.file}</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </div>
  );
}
