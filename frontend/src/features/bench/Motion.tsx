import type { Schemas } from "../../api/client";
import { plannedPlace } from "../../api/pictures";
import { useChoose } from "../../api/mutations/crates";
import { useMotion } from "../../api/queries";
import { fps, length } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import { Steps, Still, useFrames } from "../../ui/Viewer";
import { Foot, type Part, useBack } from "./Foot";
import { Said } from "./Said";
import { Ways } from "./Ways";

type Found = Schemas["MotionOut"];
const STRIP = 10; // frames
const PULLDOWN = [
  { value: "", label: "as fields, each at its own moment" },
  { value: "undone", label: "as film: 2:3 pulldown undone, four frames of five" },
];
const PITCHES = [
  { value: "kept", label: "its pitch kept" },
  { value: "follows", label: "its pitch follows" },
];
const RETIME = [
  { value: "", label: "repeated or dropped" },
  { value: "blended", label: "mixed of the two about each moment" },
  { value: "compensated", label: "made between them along what moves: slow" },
];

/** How the picture moves: which frames are shown where, and for how long. */
export function Motion({ crate, one, open }: Part) {
  const middle = Math.max(0, Math.floor((one.frames - STRIP) / 2));
  const { frame, to, last, keys } = useFrames(one.frames, one.rate, middle);
  const found = useMotion(one.id, frame, STRIP);
  const choose = useChoose(one.id);
  const back = useBack(one);
  const speed = String(one.choices.speed ?? "");
  const film = one.choices.pulldown === "undone";
  const set = (property: string, value: string | null) => choose.mutate({ property, value });
  const natural = found.data?.natural ?? null;
  const failed = choose.error ?? back.error;
  useKeys([
    ...keys,
    ...(open && natural
      ? [
          { key: "1", does: "at its own rate", run: () => set("speed", null) },
          { key: "2", does: "every frame once", run: () => set("speed", natural) },
        ]
      : []),
    ...(open ? back.keys : []),
  ]);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the motion" />;
  return (
    <>
      {failed && <Problem error={failed} />}
      <ol aria-label="Consecutive frames" className="grid grid-cols-5 gap-1">
        {found.data.strip.map((shown) => (
          <li key={shown.place}>
            <figure>
              <Still
                className="h-32"
                src={plannedPlace(one, shown.place, 240)}
                alt={`frame ${shown.place} as it will be made`}
              />
              <figcaption className="figure text-xs">
                {shown.place} <Of shown={shown} strip={found.data.strip} film={film} />
              </figcaption>
            </figure>
          </li>
        ))}
      </ol>
      {found.data.strip.length === 0 && <p>No preview until this can be run.</p>}
      <Steps frame={frame} to={to} last={last} rate={one.rate} />
      <div className="flex flex-wrap items-start gap-x-8 gap-y-2">
        {open && (speed || natural) && (
          <Speed found={found.data} speed={speed} set={(value) => set("speed", value)} />
        )}
        {open && speed && "pitch" in one.choices && (
          <Ways
            legend="The sound goes along"
            name="pitch"
            ways={PITCHES}
            taken={String(one.choices.pitch)}
            take={(value) => set("pitch", value)}
          />
        )}
        {open && "pulldown" in one.choices && (
          <Ways
            legend="Its fields are taken"
            name="pulldown"
            ways={PULLDOWN}
            taken={String(one.choices.pulldown)}
            take={(value) => set("pulldown", value)}
          />
        )}
        {open && "retime" in one.choices && (
          <Ways
            legend="Frames come to the rate"
            name="retime"
            ways={RETIME}
            taken={String(one.choices.retime)}
            take={(value) => set("retime", value)}
          />
        )}
        <Comes found={found.data} one={one} />
      </div>
      {open && (
        <Foot
          crate={crate}
          one={one}
          keys={["speed", "pitch", "pulldown", "retime"]}
          what="motion"
        />
      )}
    </>
  );
}

/** Which of the master's frames a frame shows, and whether it is the one before again. */
function Of({
  shown,
  strip,
  film,
}: {
  shown: Schemas["ShownOut"];
  strip: Schemas["ShownOut"][];
  film: boolean;
}) {
  if (shown.standing) return <span className="muted">{shown.standing}</span>;
  if (shown.other !== null) return <Mixed shown={shown} other={shown.other} />;
  const before = strip.find((s) => s.place === shown.place - 1 && !s.standing);
  const again = before?.source === shown.source;
  // Of film out of fields the one left out shows nothing of its own.
  const left = before && !film ? shown.source - before.source - 1 : 0;
  return (
    <span className="muted">
      {film ? "of about the master's" : "of the master's"} {shown.source}
      {again && <b className="text-base-content"> again</b>}
      {left > 0 && <b className="text-base-content">, {left} left out</b>}
    </span>
  );
}

/** Of which two of the master's frames a frame is made, and how near it is to either. */
function Mixed({ shown, other }: { shown: Schemas["ShownOut"]; other: number }) {
  const much = Math.round(100 * shown.share);
  if (other === shown.source)
    return <span className="muted">of the fields of the master's {other}</span>;
  if (shown.followed)
    return (
      <span className="muted">
        {much} % from {shown.source} to {other}
      </span>
    );
  return (
    <span className="muted">
      {100 - much} % of {shown.source}, {much} % of {other}
    </span>
  );
}

function Speed({
  found,
  speed,
  set,
}: {
  found: Found;
  speed: string;
  set: (value: string | null) => void;
}) {
  const rate = speed || found.natural || "";
  const times = fps(rate) / fps(found.own.rate);
  const much = `${Math.abs(100 * (times - 1)).toFixed(1)} % ${times > 1 ? "faster" : "slower"}`;
  const ways = [
    { value: "", label: "at its own rate; frames are repeated or dropped to keep time" },
    { value: rate, label: `at ${show(rate)} a second, every frame once: ${much}` },
  ];
  return (
    <Ways
      legend="The master is taken"
      name="speed"
      ways={ways}
      taken={speed}
      take={(value) => set(value || null)}
    />
  );
}

const show = (rate: string) => Number(fps(rate).toFixed(3)).toString();

function Comes({ found, one }: { found: Found; one: Schemas["DeliverableOut"] }) {
  const clock = (c: Schemas["ClockOut"]) => {
    const each = `${show(c.rate)} ${c.fields ? "frames of two fields" : "frames"} a second`;
    return `${each}, ${c.frames} of them, ${length(c.seconds)}`;
  };
  return (
    <section aria-label="What comes of it">
      <h2 className="font-semibold">What comes of it</h2>
      <p>
        master <span className="figure">{clock(found.own)}</span>
      </p>
      {found.made && (
        <p>
          made <span className="figure">{clock(found.made)}</span>
        </p>
      )}
      <Said one={one} ours={(row) => row.startsWith("motion.")} />
    </section>
  );
}
