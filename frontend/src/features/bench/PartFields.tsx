import { useState } from "react";
import { TextField } from "../../ui/Field";
import { type Rect, type Room, snapped } from "./region";

const NAMES = ["width", "height", "x", "y"] as const;
const SAID = { width: "width", height: "height", x: "from column", y: "from line" };

/** The part that is taken in figures; what is written is brought to the next that can be. */
export function PartFields({
  part,
  room,
  take,
}: {
  part: Rect;
  room: Room;
  take: (part: Rect) => void;
}) {
  const [text, setText] = useState<Partial<Record<(typeof NAMES)[number], string>>>({});
  const done = () => {
    const next = { ...part };
    for (const name of NAMES) {
      const figure = Number(text[name] ?? part[name]);
      if (Number.isFinite(figure) && text[name] !== "") next[name] = figure;
    }
    setText({});
    take(snapped(next, room));
  };
  return (
    <>
      {NAMES.map((name) => (
        <label key={name} className="mr-2 whitespace-nowrap">
          {SAID[name]}{" "}
          <TextField
            className="figure w-14"
            inputMode="numeric"
            value={text[name] ?? String(part[name])}
            onChange={(e) => setText({ ...text, [name]: e.target.value })}
            onBlur={() => {
              if (Object.keys(text).length) done();
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter") done();
              if (e.key === "Escape") setText({});
            }}
          />
        </label>
      ))}
    </>
  );
}
