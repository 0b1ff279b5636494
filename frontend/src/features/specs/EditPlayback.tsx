import { type Judged, Line, type Part, Wrongs } from "./EditLine";
import type { Playback as PlaybackPart, Way } from "./document";
import { Select, TextField } from "../../ui/Field";

const WAYS: Record<Way, string> = {
  forwards: "forwards",
  backwards: "backwards",
  "ping-pong": "to and fro",
  random: "anywhere",
  faster: "faster",
  slower: "slower",
};

/** How the recipient plays the files, so that they can be rehearsed. */
export function Playback({ doc, set, wrong }: Part & Judged) {
  const playback = doc.playback ?? null;
  const ways = playback?.ways ?? [];
  const put = (part: Partial<PlaybackPart>) =>
    set(
      { ...doc, playback: { ways, ...playback, ...part } },
      `playback ${Object.keys(part)[0] ?? ""}`,
    );
  const turn = (way: Way) => {
    const left = (Object.keys(WAYS) as Way[]).filter((w) =>
      w === way ? !ways.includes(w) : ways.includes(w),
    );
    // What is played in no way is not played: nothing is asked any more.
    if (left.length) put({ ways: left });
    else set({ ...doc, playback: null }, "playback ways");
  };
  return (
    <section aria-label="How it is played">
      <h2 className="mb-1 border-b-2 border-accent font-semibold">how it is played</h2>
      <Wrongs wrong={wrong} place={["playback"]} />
      <div role="group" aria-label="Ways" className="mb-1 flex items-baseline gap-2">
        <span className="w-36 shrink-0">Ways</span>
        <div className="flex flex-wrap gap-x-3">
          {(Object.entries(WAYS) as [Way, string][]).map(([way, says]) => (
            <label key={way} className="flex min-h-7 items-center gap-1">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={ways.includes(way)}
                onChange={() => turn(way)}
              />
              {says}
            </label>
          ))}
        </div>
      </div>
      {playback === null && <p className="muted text-xs">none: it does not say</p>}
      {playback !== null && (
        <>
          <Line name="Layers at once">
            <Select
              value={playback.layers ?? 1}
              onChange={(e) => put({ layers: Number(e.target.value) as PlaybackPart["layers"] })}
            >
              {[1, 2, 4].map((n) => (
                <option key={n}>{n}</option>
              ))}
            </Select>
          </Line>
          <Line name="May come late" hint="of 240 pictures">
            <TextField
              className="w-16"
              inputMode="numeric"
              value={playback.late ?? 0}
              onChange={(e) => put({ late: Number(e.target.value.replace(/\D/g, "")) })}
            />
          </Line>
          <Line name="Clause">
            <TextField
              className="w-44"
              value={playback.source ?? ""}
              onChange={(e) => put({ source: e.target.value })}
            />
          </Line>
          <Line name="Note">
            <TextField
              className="grow"
              value={playback.note ?? ""}
              onChange={(e) => put({ note: e.target.value })}
            />
          </Line>
        </>
      )}
    </section>
  );
}
