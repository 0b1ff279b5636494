import clsx from "clsx";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSamples } from "../../api/queries";
import { useAddress } from "../../ui/address";
import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { Loading, Problem } from "../../ui/states";

type Found = Schemas["SamplesOut"];
type Side = Schemas["MagnifiedOut"];
const OVERVIEW = 320;
const FAR = 65535;

/** Samples about a place with their values, of what goes into the encoder and of what came out. */
export function Samples({ run, frame }: { run: number; frame: number }) {
  const [written, write] = useAddress("at", "");
  const [x = NaN, y = NaN] = written.split(",").map(Number);
  // Who has not chosen a place gets one inside any picture; it is held to the picture's edge.
  const at = { x: Number.isFinite(x) ? x : 64, y: Number.isFinite(y) ? y : 64 };
  const to = (x: number, y: number) => write(`${held(x)},${held(y)}`);
  const found = useSamples(run, frame, at.x, at.y);
  const [component, setComponent] = useState("");
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the samples" />;
  const { sides, width, height, interlaced } = found.data;
  const place = { x: Math.min(at.x, width - 1), y: Math.min(at.y, height - 1) };
  const names = sides[1]?.names ?? [];
  const shown = Math.max(0, names.indexOf(component));
  return (
    <section aria-label="Samples">
      <div className="mb-1 flex flex-wrap items-center gap-3">
        <Number_ label="column" value={place.x} last={width - 1} set={(v) => to(v, place.y)} />
        <Number_ label="line" value={place.y} last={height - 1} set={(v) => to(place.x, v)} />
        <Choice label="component" values={names} value={names[shown] ?? ""} set={setComponent} />
        {interlaced && (
          <span className="muted">
            line {place.y} is of the {fieldOf(place.y)} field
          </span>
        )}
      </div>
      <div className="flex flex-wrap items-start gap-3">
        <Whole run={run} frame={frame} found={found.data} place={place} to={to} />
        {sides.map((side, n) => (
          <Grid
            key={n}
            title={n === 0 ? "before coding" : "deliverable"}
            side={side}
            other={sides[1 - n]}
            found={found.data}
            component={shown}
            place={place}
            to={to}
          />
        ))}
      </div>
      <Values sides={sides} found={found.data} place={place} />
    </section>
  );
}

const held = (n: number) => Math.max(0, Math.min(FAR, Math.round(n)));
const fieldOf = (line: number) => (line % 2 ? "lower" : "upper");

function Number_({
  label,
  value,
  last,
  set,
}: {
  label: string;
  value: number;
  last: number;
  set: (value: number) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      <span className="muted">{label}</span>
      <TextField
        type="number"
        className="figure w-20"
        min={0}
        max={last}
        value={value}
        onChange={(e) => set(Number(e.target.value))}
      />
      <span className="muted text-xs">of {last + 1}</span>
    </label>
  );
}

type Place = { x: number; y: number };
type Looked = { found: Found; place: Place; to: (x: number, y: number) => void };

/** The whole frame, to press where samples are wanted. */
function Whole({ run, frame, found, place, to }: Looked & { run: number; frame: number }) {
  return (
    <figure className="w-56">
      <button
        type="button"
        aria-label="choose a place on the picture"
        className="relative block w-full cursor-crosshair"
        onClick={(e) => {
          if (e.detail === 0) return; // a key has no place
          const box = e.currentTarget.getBoundingClientRect();
          const across = (e.clientX - box.left) / box.width;
          const down = (e.clientY - box.top) / box.height;
          to(Math.floor(across * found.width), Math.floor(down * found.height));
        }}
      >
        <img
          className="block w-full"
          src={`/api/runs/${run}/frames/${frame}?width=${OVERVIEW}`}
          alt={`the whole of frame ${frame}`}
        />
        <span
          aria-hidden
          className="absolute size-2 -translate-1/2 border-2 border-accent bg-base-100"
          style={{
            left: `${(100 * (place.x + 0.5)) / found.width}%`,
            top: `${(100 * (place.y + 0.5)) / found.height}%`,
          }}
        />
      </button>
      <figcaption className="muted text-xs">press where samples are wanted</figcaption>
    </figure>
  );
}

function Grid({
  title,
  side,
  other,
  found,
  component,
  place,
  to,
}: Looked & { title: string; side: Side; other: Side | undefined; component: number }) {
  const alike = other !== undefined && same(side, other);
  return (
    <figure className="grow">
      <div role="img" aria-label={`samples ${title}, ${side.names[component] ?? ""}`}>
        {side.values.map((line, row) => (
          <div key={row} className="flex">
            {line.map((sample, column) => {
              const value = sample[component] ?? 0;
              const differs = alike && value !== other.values[row]?.[column]?.[component];
              const here = found.left + column === place.x && found.top + row === place.y;
              const colour = side.colours[row]?.[column] ?? "#000000";
              return (
                <span
                  key={column}
                  className={clsx(
                    "figure flex h-7 w-7 cursor-pointer items-center justify-center text-[9px]",
                    differs && "font-bold underline",
                    here && "outline-2 -outline-offset-2 outline-accent",
                  )}
                  style={{ background: colour, color: over(colour) }}
                  onPointerDown={() => to(found.left + column, found.top + row)}
                >
                  {value}
                </span>
              );
            })}
          </div>
        ))}
      </div>
      <figcaption>
        <b>{title}</b>{" "}
        <span className="muted">
          {side.names.join(", ")}, {side.depth} bits
          {side.stored > side.depth && ` of ${side.stored}`}
          {alike && "; underlined where the two differ"}
        </span>
      </figcaption>
    </figure>
  );
}

/** The sample in the middle in words and figures. */
function Values({ sides, found, place }: { sides: Side[]; found: Found; place: Place }) {
  const [before, after] = sides.map((s) => s.values[place.y - found.top]?.[place.x - found.left]);
  const [one, other] = sides;
  if (!before || !after || !one || !other) return null;
  const alike = same(one, other);
  return (
    <p className="figure mt-1" role="status">
      {other.names.map((name, n) => {
        const [was, is] = [before[n] ?? 0, after[n] ?? 0];
        return (
          <span key={name} className="mr-4">
            {name} {alike && `${was} `}
            {alike && "to "}
            {is}
            {alike && ` (${is > was ? "+" : ""}${is - was})`}
          </span>
        );
      })}
      {!alike && (
        <span className="muted">
          before coding: {one.names.map((name, n) => `${name} ${before[n] ?? 0}`).join(", ")}; in
          another form, so no difference is given
        </span>
      )}
    </p>
  );
}

/** Whether the values of two pictures can be held against each other. */
const same = (one: Side, other: Side) => one.names.join() === other.names.join();

/** Black or white, whichever is read over a colour (WCAG's relative luminance, roughly). */
function over(colour: string): string {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((n) => Number.parseInt(colour.slice(n, n + 2), 16));
  return 0.2126 * (r / 255) ** 2.2 + 0.7152 * (g / 255) ** 2.2 + 0.0722 * (b / 255) ** 2.2 > 0.18
    ? "#000000"
    : "#ffffff";
}
