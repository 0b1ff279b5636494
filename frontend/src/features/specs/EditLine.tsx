import { type ReactNode, useState } from "react";
import type { Schemas } from "../../api/client";
import type { Doc } from "./document";

export type Part = { doc: Doc; set: (doc: Doc, mark?: string) => void };
export type Judged = { wrong: Schemas["Wrong"][] };

export function Line({
  name,
  children,
  hint,
}: {
  name: string;
  children: ReactNode;
  hint?: string;
}) {
  return (
    <label className="mb-1 flex flex-wrap items-center gap-2">
      <span className="w-36 shrink-0">{name}</span>
      {children}
      {hint && <span className="muted text-xs">{hint}</span>}
    </label>
  );
}

/** What is wrong with a part of the document, said in that part. */
export function Wrongs({ wrong, place }: Judged & { place: string[] }) {
  return wrong
    .filter((w) => place.every((p, n) => w.place[n] === p))
    .map((w) => (
      <p key={w.what} role="alert" className="font-semibold text-error">
        {w.what} {w.way_out}
      </p>
    ));
}

/**
 * A name among others: it is taken when the field is left, and not at all where another has it, for
 * one of the two would be lost.
 */
export function Name({
  value,
  others,
  label,
  taken,
  className,
}: {
  value: string;
  others: string[];
  label: string;
  taken: (name: string) => void;
  className: string;
}) {
  const [text, setText] = useState(value);
  const name = text.trim();
  const held = others.includes(name);
  const done = () => {
    if (name && name !== value && !held) taken(name);
    else setText(value);
  };
  return (
    <>
      <input
        className={className}
        aria-label={label}
        aria-invalid={held}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={done}
        onKeyDown={(e) => {
          if (e.key === "Enter") done();
          if (e.key === "Escape") setText(value);
        }}
      />
      {held && (
        <span role="alert" className="ml-2 text-xs font-semibold text-error">
          {name} is there already
        </span>
      )}
    </>
  );
}

export const short = (title: string) =>
  title
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);

/** A name that none of those has. */
export const spare = (stem: string, held: [string, unknown][]) => {
  let n = held.length + 1;
  const name = () => `${stem}${n}`;
  while (held.some(([k]) => k === name())) n += 1;
  return name();
};
