import { useState } from "react";
import type { Schemas } from "../../api/client";
import { masterFrame, plannedFrame, takenFrame, takenPlace } from "../../api/pictures";
import { useFraming } from "../../api/queries";
import { useChoose } from "../../api/mutations/crates";
import { Button } from "../../ui/Button";
import { useAddress } from "../../ui/address";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { GUIDES, Guides } from "../masters/guides";
import { GuidesField } from "./GuidesField";
import { Foot, type Part, useBack } from "./Foot";
import { PartBox } from "./PartBox";
import { PartFields } from "./PartFields";
import { pixel, Wall } from "./Wall";
import { Ways } from "./Ways";
import { Otherwise } from "./Otherwise";
import { endsAt, type Reframed, withRange, write } from "./reframed";
import { type Rect, same, written } from "./region";

type Found = Schemas["FramingOut"];
type Deliverable = Schemas["DeliverableOut"];
const WAYS = [
  { value: "pad", label: "bars fill the rest" },
  { value: "crop", label: "cut to fill the frame" },
  { value: "stretch", label: "stretched to the frame" },
];

/** What is chosen of ranges; none is chosen by nothing. */
const ranges = (all: readonly Reframed[]) => ({
  property: "reframed",
  value: all.length ? write(all) : null,
});

const shaped = (ratio: string) =>
  ratio === "1" ? "square pixels" : `pixels of ${ratio.replace("/", ":")}`;

export function Framing({ crate, one, open }: Part) {
  const frames = one.master_frames || one.master.frames;
  const shown = useFrames(frames, one.master.rate, Math.floor(frames / 2));
  const ends = endsAt(String(one.choices.reframed ?? ""), takenFrame(one, shown.frame));
  const found = useFraming(one.id, ends?.[0]);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the framing" />;
  return <Shown crate={crate} one={one} found={found.data} open={open} shown={shown} />;
}

type Frames = ReturnType<typeof useFrames>;

function Shown({ crate, one, found, open, shown }: Part & { found: Found; shown: Frames }) {
  const { frame, to, last, keys } = shown;
  const at = takenFrame(one, frame);
  const [guides, setGuides] = useAddress("guides", "none");
  const [draft, setDraft] = useState<Rect | null>(null);
  const [keeps, setKeeps] = useState(false);
  const [from, setFrom] = useState<number | null>(null);
  const choose = useChoose(one.id);
  const own = found.within == null ? null : (found.reframed[found.within] ?? null);
  const part = draft ?? found.region;
  const way = found.framing;
  const shape = keeps ? part.width / part.height : undefined;
  const take = (next: Rect) => {
    if (same(next, found.region)) return setDraft(null);
    setDraft(next);
    const region = written(next, found.picture);
    choose.mutate(
      own ? otherwise({ ...own, region: region ?? "" }) : { property: "region", value: region },
      { onSettled: () => setDraft(null) },
    );
  };
  const otherwise = (next: Reframed) => ranges(withRange(found.reframed, next));
  const set = (value: string) =>
    choose.mutate(own ? otherwise({ ...own, framing: value }) : { property: "framing", value });
  const add = (first: number, end: number) => {
    const region = written(found.region, found.picture) ?? "";
    choose.mutate(otherwise({ first, last: end, region, framing: found.framing }));
    setFrom(null);
  };
  const back = useBack(one);
  const inside = found.parts.find((p) => p.label === "inside the bars");
  useKeys([
    ...keys,
    {
      key: "g",
      does: "next guides",
      run: () => setGuides(GUIDES[(GUIDES.indexOf(guides) + 1) % GUIDES.length] ?? "none"),
    },
    ...(open
      ? [
          ...WAYS.map((w, n) => ({
            key: String(n + 1),
            does: w.label,
            run: () => set(w.value),
          })),
          { key: "w", does: "take all of the picture", run: () => take(found.picture) },
          {
            key: "b",
            does: "take what is inside the bars",
            run: () => {
              if (inside) take(inside.region);
            },
          },
          {
            key: "p",
            does: "to the part taken, to move it by the arrows",
            run: () => document.querySelector<HTMLElement>(".part-box")?.focus(),
          },
          {
            key: "e",
            does: "frame otherwise from this frame, or up to it",
            run: () => (from === null ? setFrom(at) : add(Math.min(from, at), Math.max(from, at))),
          },
          ...back.keys,
        ]
      : []),
  ]);
  const aspect = (found.width * pixel(found.pixel_aspect)) / found.height;
  const failed = choose.error ?? back.error;
  const busy = choose.isPending || draft !== null;
  return (
    <>
      {failed && <Problem error={failed} />}
      <div className="grid grid-cols-2 gap-2">
        <figure>
          <Wall aspect={aspect}>
            <Still
              className="filled-box h-full w-full !p-0"
              src={masterFrame(one.master, at, 800)}
              alt={`the master at frame ${at}`}
            />
            {open && (
              <PartBox
                part={part}
                frame={found}
                room={found}
                shape={shape}
                draw={setDraft}
                done={take}
              />
            )}
            {found.seen && !draft && !same(found.seen.crop, part) && (
              <Seen crop={found.seen.crop} frame={found} />
            )}
          </Wall>
          <figcaption>
            <b>master</b>{" "}
            <span className="figure">
              {found.width} x {found.height}
            </span>
            , drawn: the part that is taken
          </figcaption>
        </figure>
        <Made one={one} seen={found.seen} at={at} guides={guides} busy={busy} />
      </div>
      <Steps frame={frame} to={to} last={last} rate={one.master.rate} />
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        {open && (
          <>
            <fieldset className="min-w-0">
              <legend className="font-semibold">Part taken</legend>
              <PartFields key={written(part, found.picture)} part={part} room={found} take={take} />
              <label className="ml-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={keeps}
                  onChange={(e) => setKeeps(e.target.checked)}
                />{" "}
                keeps its shape
              </label>
              <div className="mt-1 flex max-w-xl flex-wrap gap-1">
                {found.parts.map((p) => (
                  <Button
                    key={p.label}
                    aria-pressed={same(p.region, part)}
                    className={same(p.region, part) ? "btn-active" : ""}
                    title={written(p.region, found.picture) ?? "the whole"}
                    onClick={() => take(p.region)}
                  >
                    {p.label}
                  </Button>
                ))}
              </div>
            </fieldset>
            <Ways legend="Set into the frame" name="framing" ways={WAYS} taken={way} take={set} />
          </>
        )}
        <section aria-label="What comes of it">
          <h2 className="font-semibold">What comes of it</h2>
          {found.seen ? <Comes seen={found.seen} /> : <p>Nothing yet: see above.</p>}
        </section>
        <GuidesField guides={guides} set={setGuides} />
      </div>
      {open && "reframed" in one.choices && (
        <Otherwise
          master={one.master}
          ranges={found.reframed}
          ways={WAYS}
          within={found.within}
          frame={at}
          from={from}
          mark={setFrom}
          add={add}
          drop={(gone) => choose.mutate(ranges(found.reframed.filter((kept) => kept !== gone)))}
          go={(wanted) => to(takenPlace(one, wanted))}
        />
      )}
      {open && (
        <Foot
          crate={crate}
          one={one}
          keys={["framing", "region"]}
          of={["reframed"]}
          what="framing"
        />
      )}
    </>
  );
}

function Made({
  one,
  seen,
  at,
  guides,
  busy,
}: {
  one: Deliverable;
  seen: Schemas["SeenOut"] | null;
  at: number;
  guides: string;
  busy: boolean;
}) {
  if (!seen)
    return (
      <p className="flex h-[20rem] items-center justify-center border border-base-300 px-3">
        No preview until this can be run.
      </p>
    );
  const aspect = (seen.width * pixel(seen.pixel_aspect)) / seen.height;
  return (
    <figure>
      <Wall aspect={aspect}>
        <Still
          className="filled-box h-full w-full !p-0"
          src={plannedFrame(one, at, 800)}
          alt="the frame as it will be shown"
        />
        <Guides kind={guides} aspect={aspect} />
      </Wall>
      <figcaption>
        <b>as it will be shown</b>{" "}
        <span className="figure">
          {seen.width} x {seen.height}
        </span>
        , {shaped(seen.pixel_aspect)}
        <span className="muted" role="status">
          {busy ? " (the frame for this choice is being made)" : ""}
        </span>
      </figcaption>
    </figure>
  );
}

/** What is seen of the part that is taken, where it is cut to fill the frame. */
function Seen({ crop, frame }: { crop: Rect; frame: Found }) {
  return (
    <svg
      className="pointer-events-none absolute inset-0 h-full w-full mix-blend-difference"
      viewBox={`0 0 ${frame.width} ${frame.height}`}
      preserveAspectRatio="none"
      role="img"
      aria-label="what is seen of it in the frame"
    >
      <rect
        {...crop}
        fill="none"
        stroke="#fff"
        strokeWidth={2}
        strokeDasharray="8 5"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

function Comes({ seen }: { seen: Schemas["SeenOut"] }) {
  const { crop, place, width, height, roundness } = seen;
  const bars = {
    left: place.x,
    right: width - place.x - place.width,
    above: place.y,
    below: height - place.y - place.height,
  };
  const black = Object.entries(bars).filter(([, samples]) => samples > 0);
  const off = 100 * (roundness - 1);
  return (
    <dl className="facts-short">
      <div>
        <dt className="inline">seen </dt>
        <dd className="figure inline">
          {crop.width} x {crop.height} from {crop.x}, {crop.y}
        </dd>
      </div>
      <div>
        <dt className="inline">set as </dt>
        <dd className="figure inline">
          {place.width} x {place.height} at {place.x}, {place.y}
        </dd>
      </div>
      <div>
        <dt className="inline">black </dt>
        <dd className="figure inline">
          {black.map(([side, samples]) => `${samples} ${side}`).join(", ") || "none"}
        </dd>
      </div>
      <div>
        <dt className="inline">circles </dt>
        <dd className="inline">
          {Math.abs(off) < 0.05
            ? "round"
            : `${Math.abs(off).toFixed(1)} % too ${off > 0 ? "wide" : "narrow"}`}
        </dd>
      </div>
    </dl>
  );
}
