import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChoose } from "../../api/mutations/crates";
import { plannedPlace } from "../../api/pictures";
import { useEnds } from "../../api/queries";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { fps, length } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { Foot, type Part, useBack } from "./Foot";
import { KINDS, read, written } from "./leader";

type Ends = Schemas["EndsOut"];
/** Chooses one after the other; what is refused is shown by the page. */
type Set = (changes: Record<string, string | null>) => Promise<void>;
const LEADER = "leader";
const TAIL = "tail";

/** What stands before the programme and after it. */
export function Around({ crate, one, open }: Part) {
  const { frame, to, last, keys } = useFrames(one.frames, one.rate, 0);
  const found = useEnds(one.id);
  const choose = useChoose(one.id);
  const back = useBack(one);
  useKeys([...keys, ...(open ? back.keys : [])]);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="what stands around it" />;
  const failed = choose.error ?? back.error;
  const set: Set = async (changes) => {
    for (const [property, value] of Object.entries(changes))
      await choose.mutateAsync({ property, value });
  };
  const chosen = String(one.choices[LEADER] ?? "");
  const free = open && LEADER in one.choices;
  return (
    <>
      {failed && <Problem error={failed} />}
      <Still className="h-80" src={plannedPlace(one, frame, 800)} alt={`frame ${frame} as made`} />
      <Line ends={found.data} frame={frame} to={to} />
      <Steps frame={frame} to={to} last={last} rate={one.rate} />
      <div className="flex flex-wrap items-start gap-x-12 gap-y-2">
        {free && (
          <Leader
            key={`${chosen} ${String(one.choices[TAIL])}`}
            chosen={chosen}
            tail={String(one.choices[TAIL] ?? "")}
            asked={found.data.asked}
            busy={choose.isPending}
            set={set}
          />
        )}
        {open && !free && (
          <p className="muted">
            Where the picture is copied nothing is set around it: have it encoded on the crate's
            page.
          </p>
        )}
        <Stretches ends={found.data} to={to} />
      </div>
      {open && <Foot crate={crate} one={one} keys={[LEADER, TAIL]} what="leader" />}
    </>
  );
}

/** An error is on show where the choice was made. */
const shown = () => undefined;

/** The parts of what is made, as long as they last. */
function Line({ ends, frame, to }: { ends: Ends; frame: number; to: (n: number) => void }) {
  const whole = ends.stretches.reduce((sum, s) => sum + s.frames, 0);
  if (!whole) return null;
  return (
    <div className="relative mt-1 flex h-6 border border-base-300" aria-hidden>
      {ends.stretches.map((s) => (
        <button
          key={s.first}
          tabIndex={-1}
          className={`stretch-${s.kind} truncate px-1 text-left text-xs`}
          style={{ width: `${(100 * s.frames) / whole}%` }}
          onClick={() => to(s.first)}
        >
          {s.kind}
        </button>
      ))}
      <div
        className="pointer-events-none absolute inset-y-0 w-0.5 bg-primary"
        style={{ left: `${(100 * frame) / whole}%` }}
      />
    </div>
  );
}

function Stretches({ ends, to }: { ends: Ends; to: (n: number) => void }) {
  const rate = fps(ends.rate);
  return (
    <section aria-label="What comes of it">
      <h2 className="font-semibold">What comes of it</h2>
      {ends.stretches.length === 0 && <p>Nothing until this can be made.</p>}
      <ol>
        {ends.stretches.map((s) => (
          <li key={s.first}>
            <button className="underline" onClick={() => to(s.first)}>
              {s.kind}
            </button>{" "}
            <span className="figure">
              {length(s.frames / rate)}
              {s.label && `, from ${s.label}`}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Leader({
  chosen,
  tail,
  asked,
  busy,
  set,
}: {
  chosen: string;
  tail: string;
  asked: string;
  busy: boolean;
  set: Set;
}) {
  const [parts, setParts] = useState(read(chosen));
  const [after, setAfter] = useState(tail.replace(" s", ""));
  const wanted = written(parts);
  const wantedTail = Number(after) > 0 ? `${Number(after)} s` : "";
  const same = wanted === chosen && wantedTail === tail;
  const take = () =>
    set({
      ...(wanted !== chosen && { [LEADER]: wanted || null }),
      ...(wantedTail !== tail && { [TAIL]: wantedTail || null }),
    }).catch(shown);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void take();
      }}
    >
      <fieldset>
        <legend className="font-semibold">Before the programme, seconds</legend>
        <div className="flex flex-wrap gap-2">
          {KINDS.map((kind) => (
            <label key={kind}>
              {kind === "bars" ? "bars and tone" : kind}{" "}
              <TextField
                className="w-16"
                inputMode="decimal"
                value={parts[kind]}
                onChange={(e) => setParts({ ...parts, [kind]: e.target.value })}
              />
            </label>
          ))}
        </div>
      </fieldset>
      <label className="mt-1 block">
        black after it, seconds{" "}
        <TextField
          className="w-16"
          inputMode="decimal"
          value={after}
          onChange={(e) => setAfter(e.target.value)}
        />
      </label>
      <div className="mt-2 flex gap-2">
        <Button type="submit" disabled={busy || same}>
          Set it so
        </Button>
        {asked && (
          <Button
            type="button"
            disabled={busy}
            onClick={() => void set({ [LEADER]: asked }).catch(shown)}
          >
            As the spec asks: {asked}
          </Button>
        )}
      </div>
    </form>
  );
}
