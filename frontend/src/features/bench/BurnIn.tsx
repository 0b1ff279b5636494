import { useState } from "react";
import { useChoose } from "../../api/mutations/crates";
import { plannedPlace } from "../../api/pictures";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useKeys } from "../../ui/keys";
import { Problem } from "../../ui/states";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { Foot, type Part, useBack } from "./Foot";

const BURN_IN = "burn_in";
const WATERMARK = "watermark";
const KINDS = ["timecode", "name"] as const;

/** What is burnt into a copy for review, on any of its frames. */
export function BurnIn({ crate, one, open }: Part) {
  const { frame, to, last, keys } = useFrames(one.frames, one.rate, Math.floor(one.frames / 2));
  const choose = useChoose(one.id);
  const back = useBack(one);
  const held = String(one.choices[BURN_IN] ?? "");
  const taken = KINDS.filter((kind) => held.includes(kind));
  const free = open && BURN_IN in one.choices;
  const flip = (kind: string) => {
    const wanted = KINDS.filter((k) => (k === kind) !== taken.includes(k)).join(", ");
    choose.mutate({ property: BURN_IN, value: wanted || null });
  };
  useKeys([
    ...keys,
    ...(free
      ? KINDS.map((kind, n) => ({ key: String(n + 1), does: kind, run: () => flip(kind) }))
      : []),
    ...(open ? back.keys : []),
  ]);
  const failed = choose.error ?? back.error;
  return (
    <>
      {failed && <Problem error={failed} />}
      <Still
        className="h-[26rem]"
        src={plannedPlace(one, frame, 1280)}
        alt={`frame ${frame} as it will be made`}
      />
      <Steps frame={frame} to={to} last={last} rate={one.rate} />
      {free && (
        <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
          <fieldset className="flex items-center gap-3">
            <legend className="float-left mr-3 font-semibold">Burnt in</legend>
            {KINDS.map((kind) => (
              <label key={kind}>
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={taken.includes(kind)}
                  disabled={choose.isPending}
                  onChange={() => flip(kind)}
                />{" "}
                {kind}
              </label>
            ))}
          </fieldset>
          <Watermark
            key={String(one.choices[WATERMARK])}
            held={String(one.choices[WATERMARK] ?? "")}
            busy={choose.isPending}
            put={(text) => choose.mutate({ property: WATERMARK, value: text || null })}
          />
        </div>
      )}
      {open && !free && (
        <p className="muted">
          Where the picture is copied nothing is burnt in: have it encoded on the crate's page.
        </p>
      )}
      {open && <Foot crate={crate} one={one} keys={[BURN_IN, WATERMARK]} what="burn-in" />}
    </>
  );
}

function Watermark({
  held,
  busy,
  put,
}: {
  held: string;
  busy: boolean;
  put: (text: string) => void;
}) {
  const [text, setText] = useState(held);
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        put(text.trim());
      }}
    >
      <label>
        watermark{" "}
        <TextField
          className="w-64"
          value={text}
          maxLength={60}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      <Button type="submit" disabled={busy || text.trim() === held}>
        Put it in
      </Button>
    </form>
  );
}
