import type { Schemas } from "../../api/client";
import { type Ground, GROUNDS, masterFrame, plannedFrame, takenFrame } from "../../api/pictures";
import { useChoose } from "../../api/mutations/crates";
import { useColour } from "../../api/queries";
import { useChoiceInAddress } from "../../ui/address";
import { useKeys } from "../../ui/keys";
import { Table } from "../../ui/Table";
import { Loading, Problem } from "../../ui/states";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { LaidOver } from "../crates/LaidOver";
import { Foot, type Part, useBack } from "./Foot";
import { Said } from "./Said";
import { Ways } from "./Ways";
import { Wall } from "./Wall";

type Row = Schemas["ColourRowOut"];
const LAID = "background";
const LEVELS = "levels";
const EXCURSION = "picture.excursion";
const BROUGHT = [
  { value: "", label: "left as they are" },
  { value: "legal", label: "brought within EBU R 103, softly" },
];

/** What becomes of colour and transparency: before, after, and why. */
export function Colour({ crate, one, open }: Part) {
  const found = useColour(one.id);
  const frames = one.master_frames || one.master.frames;
  const { frame, to, last, keys } = useFrames(frames, one.master.rate, Math.floor(frames / 2));
  const at = takenFrame(one, frame);
  const [ground, setGround] = useChoiceInAddress("ground", GROUNDS, "checker");
  const back = useBack(one);
  const choose = useChoose(one.id);
  const clear = found.data?.clear ?? false;
  const laying = open && LAID in one.choices;
  const levelling = open && LEVELS in one.choices;
  const choosing = laying || levelling;
  const next = GROUNDS[(GROUNDS.indexOf(ground) + 1) % GROUNDS.length] ?? "checker";
  useKeys([
    ...keys,
    ...(clear
      ? [{ key: "a", does: "next ground under transparency", run: () => setGround(next) }]
      : []),
    ...(choosing ? back.keys : []),
  ]);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the colour" />;
  const { rows } = found.data;
  const has = (key: string) => key === EXCURSION || rows.some((r) => r.key === key);
  const failed = choose.error ?? back.error;
  return (
    <>
      {failed && <Problem error={failed} />}
      <div className="grid grid-cols-2 gap-2">
        <Picture
          name="master"
          src={masterFrame(one.master, at, 800, ground)}
          alt={`the master at frame ${at}`}
          aspect={found.data.shape}
        />
        {one.display_aspect ? (
          <Picture
            name="as it will be shown"
            src={plannedFrame(one, at, 800, ground)}
            alt="the frame as it will be shown"
            aspect={one.display_aspect}
          />
        ) : (
          <p className="border border-base-300 p-3 text-center">
            No preview until this can be run.
          </p>
        )}
      </div>
      <Steps frame={frame} to={to} last={last} rate={one.master.rate} />
      <div className="flex flex-wrap items-start gap-x-8 gap-y-2">
        {clear && <Grounds ground={ground} take={setGround} />}
        {levelling && (
          <Ways
            legend="Levels"
            name="levels"
            ways={BROUGHT}
            taken={String(one.choices[LEVELS])}
            take={(value) => choose.mutate({ property: LEVELS, value: value || null })}
          />
        )}
        {laying && (
          <section aria-label="What lies under it">
            <LaidOver deliverable={one} open={open} />
          </section>
        )}
        <Changes rows={rows} />
        <section aria-label="What is said of it" className="max-w-md">
          <Said one={one} ours={has} />
        </section>
      </div>
      {choosing && <Foot crate={crate} one={one} keys={[LAID, LEVELS]} what="colour" />}
    </>
  );
}

function Picture({
  name,
  src,
  alt,
  aspect,
}: {
  name: string;
  src: string;
  alt: string;
  aspect: number;
}) {
  return (
    <figure>
      <Wall aspect={aspect}>
        <Still className="filled-box h-full w-full !p-0" src={src} alt={alt} />
      </Wall>
      <figcaption>
        <b>{name}</b>
      </figcaption>
    </figure>
  );
}

function Grounds({ ground, take }: { ground: Ground; take: (ground: Ground) => void }) {
  return (
    <div>
      <h2 className="font-semibold">What is clear shows</h2>
      <div role="group" aria-label="What is clear shows" className="join">
        {GROUNDS.map((g) => (
          <button
            key={g}
            className={`btn join-item btn-xs ${ground === g ? "btn-active" : ""}`}
            aria-pressed={ground === g}
            onClick={() => take(g)}
          >
            {g === "matte" ? "matte alone" : g}
          </button>
        ))}
      </div>
    </div>
  );
}

function Changes({ rows }: { rows: Row[] }) {
  if (rows.length === 0) return <p>Nothing can be made yet: see the crate's page.</p>;
  return (
    <Table
      columns={[{ head: "property", hidden: true }, "master", "made", "why"]}
      label="Colour before and after"
      className="w-auto"
    >
      <tbody>
        {rows.map((r) => (
          <tr key={r.key}>
            <th scope="row" className="text-left font-normal">
              {r.label}
            </th>
            <td>{r.master}</td>
            <td>{r.why ? <b>{r.made}</b> : r.made}</td>
            <td>{r.why}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
