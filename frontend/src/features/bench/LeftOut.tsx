import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { fps, length, timecode } from "../../ui/format";
import { Label } from "../masters/Label";
import type { Range } from "./Grips";
import { between, joined, lies } from "./pieces";

type Master = Schemas["MasterPage"];
type Taken = Range & { left_out: Range[] };
const MOST = 6; // places with black that are offered at once

type Props = {
  master: Master;
  /** What is shown of it. */
  frame: number;
  taken: Taken;
  /** Where a part begins that is being marked; null while none is. */
  from: number | null;
  mark: (from: number | null) => void;
  take: (next: Taken) => void;
};

/** Parts of a master that are left out, so that what lies around them is joined. */
export function LeftOut({ master, frame, taken, from, mark, take }: Props) {
  const label = (n: number) => timecode(n, master.rate, master.start_frame, master.drop_frame);
  const named = ({ first, frames }: Range) => (
    <span className="figure">
      {label(first)} to {label(first + frames - 1)}, {frames} frames
    </span>
  );
  const leave = (part: Range) => {
    take({ ...taken, left_out: [...taken.left_out, part] });
    mark(null);
  };
  const blacks = master.events
    .filter((e) => e.kind === "black" && e.first !== null && e.last !== null)
    .map((e) => between(e.first ?? 0, e.last ?? 0))
    .filter((part) => lies(part, taken) && !taken.left_out.some((gone) => lies(part, gone)));
  return (
    <section aria-label="What is left out">
      <h2 className="font-semibold">Left out in between</h2>
      <div className="flex flex-wrap items-center gap-2">
        {from === null ? (
          <Button onClick={() => mark(frame)}>Leave out from this frame</Button>
        ) : (
          <>
            from <Label name="first frame left out" master={master} frame={from} to={mark} /> to the
            frame shown, <span className="figure">{label(frame)}</span>
            <Button onClick={() => leave(between(from, frame))}>Leave it out</Button>
            <Button onClick={() => mark(null)}>Leave nothing out</Button>
          </>
        )}
      </div>
      <ul className="mt-1 space-y-1">
        {taken.left_out.map((one) => (
          <li key={one.first} className="flex min-h-7 flex-wrap items-center gap-2">
            {named(one)}
            <Button
              onClick={() =>
                take({ ...taken, left_out: taken.left_out.filter((gone) => gone !== one) })
              }
            >
              Take it again
            </Button>
          </li>
        ))}
        {blacks.slice(0, MOST).map((one) => (
          <li key={one.first} className="flex min-h-7 flex-wrap items-center gap-2">
            <span>black: {named(one)}</span>
            <Button onClick={() => leave(one)}>Leave it out</Button>
          </li>
        ))}
      </ul>
      {blacks.length > MOST && (
        <p className="muted">{blacks.length - MOST} more places with black are on the time line.</p>
      )}
      {master.spans.length > 1 && <Named master={master} named={named} take={take} />}
    </section>
  );
}

/** Named ranges of a master, to be joined. */
function Named({
  master,
  named,
  take,
}: {
  master: Master;
  named: (part: Range) => React.ReactNode;
  take: (next: Taken) => void;
}) {
  const [chosen, setChosen] = useState<number[]>([]);
  const parts = master.spans.filter((span) => chosen.includes(span.id));
  const frames = parts.reduce((sum, span) => sum + span.frames, 0);
  return (
    <fieldset className="mt-1">
      <legend>Or only these named ranges, joined</legend>
      {master.spans.map((span) => (
        <label key={span.id} className="flex min-h-7 items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={chosen.includes(span.id)}
            onChange={(e) =>
              setChosen(
                e.target.checked ? [...chosen, span.id] : chosen.filter((id) => id !== span.id),
              )
            }
          />
          {span.name} {named(span)}
        </label>
      ))}
      <Button disabled={parts.length < 2} onClick={() => take(joined(parts))}>
        Join them{parts.length > 1 && `: ${length(frames / fps(master.rate))}`}
      </Button>
    </fieldset>
  );
}
