import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Problem } from "../../ui/states";
import { Select, TextField } from "../../ui/Field";
import { useChoose } from "../../api/mutations/crates";
import { PaceChoice } from "./PaceChoice";
import { wordOf } from "./words";
import { LaidOver } from "./LaidOver";
import { SoundFrom } from "./SoundFrom";

const STREAMS = ["picture", "sound"];

/**
 * What is chosen for a deliverable besides figures: whether its streams are copied, the
 * alternative, the house's set, the fields of its name.
 */
export function CrateChoices({
  deliverable,
  open,
}: {
  deliverable: Schemas["DeliverableOut"];
  open: boolean;
}) {
  const choose = useChoose(deliverable.id);
  // The database gives the rest in an order of its own.
  const keys = STREAMS.filter((k) => k in deliverable.choices).concat(
    Object.keys(deliverable.choices).filter(
      (k) =>
        k.startsWith("either.") ||
        k.startsWith("name.") ||
        (k === "house" && (deliverable.options.house?.length ?? 0) > 1) ||
        k === "loudness" ||
        k === "captions" ||
        k === "tracks" ||
        (k === "channels" && (deliverable.options.channels?.length ?? 0) > 1) ||
        k === "laid",
    ),
  );
  return (
    <div
      role="group"
      aria-label="Choices"
      className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 empty:hidden"
    >
      <SoundFrom deliverable={deliverable} open={open} />
      <LaidOver deliverable={deliverable} open={open} />
      {"pace" in deliverable.choices && (
        <PaceChoice deliverable={deliverable} codec={deliverable.codec} open={open} />
      )}
      {keys.map((key) => {
        const held = String(deliverable.choices[key] ?? "");
        const name = wordOf(key);
        const options = deliverable.options[key];
        // What is closed shows the name itself; of its fields only those that were written. Its
        // steps say what was copied.
        if (!open)
          return STREAMS.includes(key) || (key.startsWith("name.") && !held) ? null : (
            <span key={key}>
              {name} <b>{held || "the usual"}</b>
            </span>
          );
        return (
          <label key={key} className="flex items-center gap-1">
            {name}
            {options ? (
              <Select
                value={held}
                onChange={(e) => choose.mutate({ property: key, value: e.target.value || null })}
              >
                {options.map((o) => (
                  <option key={o.value} value={o.value}>
                    {o.label || "the usual"}
                  </option>
                ))}
              </Select>
            ) : (
              <Field
                key={held}
                held={held}
                set={(value) => choose.mutate({ property: key, value: value || null })}
                label={name}
                hint={
                  ["name.master", "name.production", "name.episode"].includes(key)
                    ? "as the master says"
                    : key === "name.frame"
                      ? "such as 0001001"
                      : "to be filled in"
                }
              />
            )}
          </label>
        );
      })}
      {choose.isError && <Problem error={choose.error} />}
      {choose.data && choose.data.taken_back.length > 0 && (
        <p role="status" className="basis-full">
          Taken back, for it does not fit this choice: {choose.data.taken_back.join("; ")}.
        </p>
      )}
    </div>
  );
}

function Field({
  held,
  set,
  label,
  hint,
}: {
  held: string;
  set: (value: string) => void;
  label: string;
  hint: string;
}) {
  const [text, setText] = useState(held);
  const done = () => {
    if (text !== held) set(text.trim());
  };
  return (
    <TextField
      className="w-40"
      aria-label={label}
      placeholder={hint}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
        if (e.key === "Escape") setText(held);
      }}
    />
  );
}
