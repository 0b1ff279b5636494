import { useState } from "react";
import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useAnswer } from "../../api/mutations/orders";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Problem } from "../../ui/states";

type Item = Schemas["OrderItemOut"];

/** What an item of an order asks, with the answers that are proposed. */
export function Asked({ item }: { item: Item }) {
  const answer = useAnswer();
  const [fields, setFields] = useState<Record<string, string>>({});
  const asked = item.question;
  if (!asked) return null;
  return (
    <section
      aria-label={`${item.name} asks`}
      className="mb-2 border-l-4 border-warning bg-base-200 px-2 py-1"
    >
      <p>
        <b className="break-all">{item.name}</b>
        {item.crate !== null && (
          <>
            {" "}
            <Link className="underline" to={`/crates/${item.crate}`}>
              crate {item.number}
            </Link>
          </>
        )}
        : <b>{asked.what}</b> {asked.why} {asked.way_out}
      </p>
      <form
        className="mt-1 flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          answer.mutate({ id: item.id, fields });
        }}
      >
        {asked.fields.map((field) => (
          <label key={field}>
            {field.replace("name.", "")}{" "}
            <TextField
              className="w-28"
              aria-label={`${field} of ${item.name}`}
              value={fields[field] ?? ""}
              onChange={(e) => setFields({ ...fields, [field]: e.target.value })}
            />
          </label>
        ))}
        {asked.fields.length > 0 && (
          <Button type="submit" className="min-h-7" disabled={answer.isPending}>
            Fill in
          </Button>
        )}
        {asked.answers.map((a) => (
          <Button
            key={a.key}
            className="min-h-7"
            disabled={answer.isPending}
            onClick={() => answer.mutate({ id: item.id, key: a.key })}
          >
            {a.label}
          </Button>
        ))}
      </form>
      {answer.isError && <Problem error={answer.error} />}
    </section>
  );
}
