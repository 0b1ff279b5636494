import { useState } from "react";
import type { Schemas } from "../../api/client";
import { codedPlace, plannedPlace } from "../../api/pictures";
import { bitRate, bytes, length, span } from "../../ui/format";
import { Still } from "../../ui/Viewer";
import { Window, type Place } from "./Window";

type Bought = Schemas["BoughtOut"];
type Props = {
  learned: Schemas["LearnedOut"];
  /** What is looked at on the curve. */
  here: Bought;
  one: Schemas["DeliverableOut"];
  part: Schemas["HardOut"];
};

/** A hard part as it looks coded at the planned rate and at another, beside what goes in. */
export function TryOut({ learned, here, one, part }: Props) {
  const [place, setPlace] = useState<Place>({ x: 0.5, y: 0.5 });
  const frame = part.first + Math.floor(part.frames / 2);
  const width = Math.min(4096, Math.max(16, shownWidth(one)));
  const other = here.bit_rate === learned.planned.bit_rate ? null : here;
  const panes = [
    { name: "before coding", src: plannedPlace(one, frame, width), bought: null },
    {
      name: "as planned",
      src: codedPlace(one, frame, width, learned.planned.bit_rate),
      bought: learned.planned,
    },
    ...(other
      ? [
          {
            name: "looked at",
            src: codedPlace(one, frame, width, other.bit_rate),
            bought: other,
          },
        ]
      : []),
  ];
  return (
    <section aria-label="Try-out" className="mt-2">
      <h2 className="inline font-semibold">Try-out at {length(part.seconds)}</h2>{" "}
      <span className="muted">
        Line for line, at its shape; drag, or move with the arrows.
        {!other && " Move the rate above to see another beside it."}
      </span>
      <div className={`grid gap-1 ${other ? "grid-cols-3" : "grid-cols-2"}`}>
        {panes.map((pane) => (
          <figure key={pane.name}>
            <Window name={`frame ${frame} ${pane.name}`} place={place} move={setPlace}>
              <Still waits="being made" src={pane.src} alt={`frame ${frame} ${pane.name}`} />
            </Window>
            <figcaption>
              <b>{pane.name}</b> {pane.bought && <Buys bought={pane.bought} />}
            </figcaption>
          </figure>
        ))}
      </div>
    </section>
  );
}

function Buys({ bought }: { bought: Bought }) {
  return (
    <span className="figure">
      {bitRate(bought.bit_rate)}, {bytes(bought.size)},{" "}
      {bought.make !== null && `encoded in ${span(bought.make)}, `}
      sent in {span(bought.send)}
    </span>
  );
}

/** How many screen samples wide a frame is whose lines are shown one for one. */
function shownWidth(one: Schemas["DeliverableOut"]): number {
  const [, high = 0] = (one.picture_size ?? "").split("x").map(Number);
  return Math.round(high * (one.display_aspect ?? 16 / 9));
}
