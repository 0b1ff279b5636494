import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChoose, useTakeRange } from "../../api/mutations/crates";
import { masterFrame } from "../../api/pictures";
import { useMaster, useRange } from "../../api/queries";
import { Button } from "../../ui/Button";
import { length, timecode } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { Label } from "../masters/Label";
import { TimeLine } from "../masters/TimeLine";
import { Foot, type Part, useBack } from "./Foot";
import { Grips, moved, type Range } from "./Grips";
import { LeftOut } from "./LeftOut";
import { between } from "./pieces";

type Master = Schemas["MasterPage"];
type Found = Schemas["RangeOut"];
const ZOOMS = [1, 2, 4, 8];
const NONE = { first: null, last: null };

/** What of its master a deliverable takes. */
export function Trim(part: Part) {
  const master = useMaster(part.one.master.id);
  const found = useRange(part.one.id);
  const failed = master.error ?? found.error;
  if (failed && !(master.data && found.data))
    return (
      <Problem
        error={failed}
        again={() => {
          void master.refetch();
          void found.refetch();
        }}
      />
    );
  if (!master.data || !found.data) return <Loading what="the time line" />;
  return <Shown {...part} master={master.data} found={found.data} />;
}

function Shown({ crate, one, open, master, found }: Part & { master: Master; found: Found }) {
  const { frame, to, last, keys } = useFrames(found.whole, master.rate, found.first);
  const [draft, setDraft] = useState<Range | null>(null);
  const [zoom, setZoom] = useState(0);
  const putting = useTakeRange(one.id);
  const choose = useChoose(one.id);
  const back = useBack(one);
  const [from, setFrom] = useState<number | null>(null);
  const range = draft ?? { first: found.first, frames: found.frames };
  const end = range.first + range.frames - 1;
  const put = (next: Range & { left_out: Range[] }) => {
    setDraft(next);
    putting.mutate(next, { onSettled: () => setDraft(null) });
  };
  const take = (next: Range) => {
    if (next.first === found.first && next.frames === found.frames) return setDraft(null);
    put({ ...next, left_out: found.left_out });
  };
  const leave = () => {
    if (from === null) return setFrom(frame);
    put({ ...range, left_out: [...found.left_out, between(from, frame)] });
    setFrom(null);
  };
  const part = from === null ? null : between(from, frame);
  const closer = (by: number) => setZoom((z) => Math.max(0, Math.min(ZOOMS.length - 1, z + by)));
  const all = { first: 0, frames: found.whole, left_out: [] };
  useKeys([
    ...keys,
    { key: "+", does: "time line closer", run: () => closer(1) },
    { key: "-", does: "time line wider", run: () => closer(-1) },
    ...(open
      ? [
          {
            key: "i",
            does: "begin with this frame",
            run: () => take(moved(range, "first", frame, found.whole)),
          },
          {
            key: "o",
            does: "end with this frame",
            run: () => take(moved(range, "last", frame, found.whole)),
          },
          { key: "e", does: "leave out from here, then to here", run: leave },
          { key: "x", does: "take all of it", run: () => put(all) },
          ...back.keys,
        ]
      : []),
  ]);
  const failed = putting.error ?? choose.error ?? back.error;
  const fitted = found.fitted;
  return (
    <>
      {failed && <Problem error={failed} />}
      <Still
        className="h-64"
        src={masterFrame(master, frame, 640)}
        alt={`the master's frame ${frame}`}
      />
      <Steps frame={frame} to={to} last={last} rate={master.rate} />
      <TimeLine
        master={master}
        frame={frame}
        to={to}
        marks={
          part
            ? { first: part.first, last: part.first + part.frames - 1 }
            : open
              ? NONE
              : { first: range.first, last: end }
        }
        zoom={ZOOMS[zoom]}
      >
        {open && (
          <Grips
            range={range}
            leftOut={found.left_out}
            whole={found.whole}
            draw={(next, at) => {
              setDraft(next);
              to(at);
            }}
            done={take}
          />
        )}
      </TimeLine>
      <div className="flex flex-wrap items-start gap-x-12 gap-y-2">
        {open && (
          <section aria-label="What is taken">
            <h2 className="font-semibold">What is taken of the master</h2>
            <div className="flex flex-wrap items-center gap-2">
              from{" "}
              <Label
                name="first frame taken"
                master={master}
                frame={range.first}
                to={(n) => take(moved(range, "first", n, found.whole))}
              />
              to{" "}
              <Label
                name="last frame taken"
                master={master}
                frame={end}
                to={(n) => take(moved(range, "last", n, found.whole))}
              />
              <Button onClick={() => closer(1)} disabled={zoom === ZOOMS.length - 1}>
                Closer
              </Button>
              <Button onClick={() => closer(-1)} disabled={zoom === 0}>
                Wider
              </Button>
            </div>
            <div className="mt-1 flex flex-wrap gap-2">
              <Button disabled={found.taken === found.whole} onClick={() => put(all)}>
                All of it
              </Button>
              <Button
                disabled={found.clear.frames === found.frames}
                onClick={() => take(found.clear)}
              >
                Without black at its ends
              </Button>
              {fitted && fitted.frames < found.frames && (
                <Button onClick={() => take({ first: fitted.first, frames: fitted.frames })}>
                  As long as asked: {found.frames - fitted.frames} frames of black less
                </Button>
              )}
              {fitted && fitted.black > 0 && "tail" in one.choices && (
                <Button
                  onClick={() =>
                    choose.mutate({
                      property: "tail",
                      value: longer(String(one.choices.tail), fitted.black),
                    })
                  }
                >
                  As long as asked: {length(fitted.black)} of black after it
                </Button>
              )}
            </div>
          </section>
        )}
        <Comes master={master} found={found} range={range} />
        {open && (
          <LeftOut
            master={master}
            frame={frame}
            taken={{ ...range, left_out: found.left_out }}
            from={from}
            mark={setFrom}
            take={put}
          />
        )}
      </div>
      {open && <Foot crate={crate} one={one} keys={[]} of={["range"]} what="trim" />}
    </>
  );
}

/** Black after a programme, with so many seconds more. */
const longer = (tail: string, black: number) => `${(Number.parseFloat(tail) || 0) + black} s`;

function Comes({ master, found, range }: { master: Master; found: Found; range: Range }) {
  const label = (n: number) => timecode(n, master.rate, master.start_frame, master.drop_frame);
  const asked = found.asked.map(({ least, most }) =>
    most === null
      ? `at least ${length(least)}`
      : most === least
        ? length(least)
        : least === 0
          ? `at most ${length(most)}`
          : `${length(least)} to ${length(most)}`,
  );
  return (
    <section aria-label="What comes of it">
      <h2 className="font-semibold">What comes of it</h2>
      <p>
        <span className="figure">
          {label(range.first)} to {label(range.first + range.frames - 1)},{" "}
          {range.frames - found.frames + found.taken}
        </span>{" "}
        of <span className="figure">{found.whole}</span> frames
      </p>
      {found.left_out.length > 0 && (
        <p>
          <span className="figure">{found.left_out.length + 1}</span> parts joined,{" "}
          <span className="figure">{found.frames - found.taken}</span> frames between them left out
        </p>
      )}
      <p>
        <span className="figure">{length(found.seconds)}</span> with what stands around it
        {asked.length > 0 && (
          <>
            , asked <span className="figure">{asked.join(" or ")}</span>
            {found.holds ? ", as it is" : ", which it is not"}
          </>
        )}
      </p>
      {!found.holds && !found.fitted && (
        <p>There is not so much black at its ends: cut the picture here, or ask for another cut.</p>
      )}
    </section>
  );
}
