import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useTryCodecs } from "../../api/mutations/masters";
import { Button } from "../../ui/Button";
import { fps } from "../../ui/format";
import { Problem } from "../../ui/states";
import { type Piece, read, spread, type Try, write } from "./tries";

type Found = Schemas["CodecTrialOut"];
type Master = Schemas["MasterPage"];
const PARTS = 8; // seconds, spread over the master
const MOST = 12;
const FIRST = ["h264:bit_rate=4 Mb/s", "h264:bit_rate=4 Mb/s:passes=2", "hevc:bit_rate=4 Mb/s"];

type Part = { name: string; pieces: Piece[] };

function partsOf(master: Master, asked: Piece[]): Part[] {
  const each = Math.round(fps(master.rate));
  const some = spread(master.frames, each, PARTS);
  const known = [
    ...(some.length ? [{ name: `${PARTS} seconds, spread over it`, pieces: some }] : []),
    { name: `all of it, ${master.frames} frames`, pieces: [] },
    ...master.spans.map((s) => ({
      name: `${s.name}, ${s.frames} frames`,
      pieces: [{ first: s.first, frames: s.frames }],
    })),
  ];
  if (known.some((part) => same(part.pieces, asked))) return known;
  const frames = asked.reduce((sum, piece) => sum + piece.frames, 0);
  return [...known, { name: `what was tried, ${frames} frames`, pieces: asked }];
}

const same = (one: Piece[], other: Piece[]) =>
  one.length === other.length &&
  one.every((p, n) => p.first === other[n]?.first && p.frames === other[n].frames);

/** What is to be tried, and on which part. */
export function CodecOrder({
  master,
  found,
  busy,
}: {
  master: Master;
  found: Found;
  busy: boolean;
}) {
  const parts = partsOf(master, found.pieces);
  const last = parts.findIndex((p) => same(p.pieces, found.pieces));
  const [part, setPart] = useState(found.tries.length > 0 ? Math.max(0, last) : 0);
  const [rows, setRows] = useState(() =>
    (found.tries.length ? found.tries : FIRST).map((text, key) => ({ key, one: read(text) })),
  );
  const order = useTryCodecs(master.id);
  const set = (key: number, change: Partial<Try>) =>
    setRows((all) =>
      all.map((row) => (row.key === key ? { key, one: { ...row.one, ...change } } : row)),
    );
  const add = () =>
    setRows((all) => {
      const key = Math.max(-1, ...all.map((row) => row.key)) + 1;
      return [...all, { key, one: all.at(-1)?.one ?? read("h264") }];
    });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        order.mutate({
          tries: rows.map((row) => write(row.one)),
          pieces: parts[part]?.pieces ?? [],
        });
      }}
    >
      <label className="mb-2 flex items-center gap-2">
        <span className="muted">tried on</span>
        <select
          className="select select-sm w-auto"
          value={part}
          onChange={(e) => setPart(Number(e.target.value))}
        >
          {parts.map((one, n) => (
            <option key={one.name} value={n}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      <ol aria-label="Codecs to try" className="flex flex-col gap-1">
        {rows.map(({ key, one }, n) => (
          <li key={key} className="flex flex-wrap items-center gap-2">
            <One
              one={one}
              number={n + 1}
              codecs={found.codecs}
              set={(change) => set(key, change)}
            />
            <Button
              aria-label={`Leave out codec ${n + 1}`}
              disabled={rows.length === 1}
              onClick={() => setRows((all) => all.filter((row) => row.key !== key))}
            >
              Leave out
            </Button>
          </li>
        ))}
      </ol>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button disabled={rows.length >= MOST} onClick={add}>
          Add another
        </Button>
        <Button type="submit" tone="primary" disabled={busy || order.isPending}>
          Try them
        </Button>
      </div>
      {order.isError && <Problem error={order.error} />}
    </form>
  );
}

function One({
  one,
  number,
  codecs,
  set,
}: {
  one: Try;
  number: number;
  codecs: Schemas["CodecOut"][];
  set: (change: Partial<Try>) => void;
}) {
  const codec = codecs.find((c) => c.key === one.codec);
  const other = (key: string) => {
    const next = codecs.find((c) => c.key === key);
    set({
      codec: key,
      rate: next?.rated ? one.rate || "4 Mb/s" : "",
      passes: Math.min(one.passes, next?.passes ?? 1),
      more: "",
    });
  };
  return (
    <>
      <select
        className="select select-sm w-48"
        aria-label={`codec ${number}`}
        value={one.codec}
        onChange={(e) => other(e.target.value)}
      >
        {codecs.map((c) => (
          <option key={c.key} value={c.key}>
            {c.label}
          </option>
        ))}
      </select>
      {codec?.rated && (
        <input
          className="input input-sm figure w-28"
          aria-label={`rate of codec ${number}`}
          placeholder="its usual rate"
          value={one.rate}
          onChange={(e) => set({ rate: e.target.value })}
        />
      )}
      {codec && codec.passes > 1 && (
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={one.passes > 1}
            onChange={(e) => set({ passes: e.target.checked ? 2 : 1 })}
          />
          two passes
        </label>
      )}
      <input
        className="input input-sm figure w-56"
        aria-label={`more of codec ${number}`}
        placeholder="such as profile=lt"
        value={one.more}
        onChange={(e) => set({ more: e.target.value })}
      />
    </>
  );
}
