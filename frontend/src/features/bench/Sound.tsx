import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useChoose, useHear, useStopHearing } from "../../api/mutations/crates";
import { useHearing } from "../../api/queries";
import { span } from "../../ui/format";
import { Button } from "../../ui/Button";
import { Select } from "../../ui/Field";
import { useKeys } from "../../ui/keys";
import { Notice } from "../../ui/Notice";
import { Loading, Problem } from "../../ui/states";
import { Going } from "../crates/Going";
import { Foot, type Part, useBack } from "./Foot";
import { Listen } from "./Listen";
import { Matrix } from "./Matrix";
import { Said } from "./Said";
import { Ways } from "./Ways";

const MIX = "mix";
const LOUDNESS = "loudness";
const BUSY = ["waiting", "hearing", "stopping"];

/** What becomes of sound: which channel goes where, its loudness, and how it sounds. */
export function Sound({ crate, one, open }: Part) {
  const found = useHearing(one.id);
  const hear = useHear(one.id);
  const stop = useStopHearing(one.id);
  const choose = useChoose(one.id);
  const back = useBack(one);
  const [place, setPlace] = useState(1);
  useKeys(open ? back.keys : []);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the sound" />;
  const { state, hindrance, tracks, stale, error } = found.data;
  const busy = BUSY.includes(state);
  const track = tracks[Math.min(place, tracks.length) - 1];
  const set = (property: string, value: string | null) => choose.mutate({ property, value });
  // Channels that nobody names cannot be set by name.
  const named = track?.taken.every((name) => !/^\d/.test(name)) ?? false;
  const mixing = open && named && MIX in one.choices;
  const levelling = open && LOUDNESS in one.choices;
  const failed = choose.error ?? back.error ?? hear.error;
  const heard = track?.heard;
  return (
    <>
      {failed && <Problem error={failed} />}
      {hindrance && (
        <Notice tone="warning" role="status">
          <b>{hindrance.what}</b> {hindrance.way_out}
        </Notice>
      )}
      <div className="flex flex-wrap items-start gap-x-12 gap-y-2">
        {track && (
          <section aria-label="Which channel goes where">
            {tracks.length > 1 && (
              <label className="mb-1 flex items-center gap-1">
                track made
                <Select value={place} onChange={(e) => setPlace(Number(e.target.value))}>
                  {tracks.map((t, n) => (
                    <option key={t.number} value={n + 1}>
                      {t.number}
                    </option>
                  ))}
                </Select>
              </label>
            )}
            <Matrix track={track} {...(mixing && { set: (mix: string) => set(MIX, mix) })} />
            <p className="muted mt-1">dB; a blank is nothing of it.</p>
          </section>
        )}
        <div>
          {mixing && one.choices[MIX] !== "" && (
            <p className="mb-2">
              <b>As set.</b>{" "}
              <Button onClick={() => set(MIX, null)}>Mix as the standard has it</Button>
            </p>
          )}
          {levelling && (
            <Ways
              legend="Its loudness"
              name="loudness"
              ways={(one.options[LOUDNESS] ?? []).map((o) => ({ value: o.value, label: o.label }))}
              taken={String(one.choices[LOUDNESS])}
              take={(value) => set(LOUDNESS, value)}
            />
          )}
          <section aria-label="What is said of it" className="max-w-xl">
            <Said one={one} ours={(row) => row.startsWith("sound.")} />
          </section>
        </div>
      </div>
      <div className="my-2 flex flex-wrap items-center gap-3">
        {busy && (
          <Going
            topic="hearing"
            found={found.data}
            working="hearing"
            label="share of the sound heard"
            said={said}
            stop={stop}
          />
        )}
        {!busy && !hindrance && open && (
          <Button disabled={hear.isPending} onClick={() => hear.mutate()}>
            {heard ? "Hear it again" : "Hear what comes of it"}
          </Button>
        )}
        {stale && !hindrance && !busy && (
          <span role="status">What was heard is other sound than is planned now.</span>
        )}
        {state === "cancelled" && <span role="status">Hearing was stopped.</span>}
      </div>
      {state === "failed" && error && (
        <Notice tone="error" role="status">
          It could not be heard: {error.what} {error.way_out}
        </Notice>
      )}
      {track && heard && found.data.id !== null && !busy && (
        <Listen
          key={`${track.number} ${found.data.id}`}
          deliverable={one.id}
          hearing={found.data.id}
          place={Math.min(place, tracks.length)}
          track={track}
          heard={heard}
        />
      )}
      {open && (
        <Foot crate={crate} one={one} keys={[MIX, LOUDNESS, "tracks", "channels"]} what="sound" />
      )}
    </>
  );
}

const said = (progress: Schemas["Progress"]) => {
  const what = progress.stage === "listen" ? "measuring its loudness" : "hearing it";
  const left = progress.remaining == null ? "" : `, about ${span(progress.remaining)} remaining`;
  return `${what}: ${Math.round(100 * progress.share)} %${left}`;
};
