import { useState } from "react";
import { GUIDES, shapeOf } from "../masters/guides";

const FREE = "free";

/** Which guides lie over a frame: one of a list, or a shape of one's own. */
export function GuidesField({ guides, set }: { guides: string; set: (guides: string) => void }) {
  // What was set here; a key may have gone on to others since.
  const [own, setOwn] = useState(GUIDES.includes(guides) ? null : guides);
  const free = own !== null && own === guides;
  const [text, setText] = useState(own?.replace(/:1$/, "") ?? "2.2");
  const shape = `${text.trim()}:1`;
  const take = (next: string | null, shown: string) => {
    setOwn(next);
    set(shown);
  };
  const draw = (next: string) => {
    const drawn = `${next.trim()}:1`;
    setText(next);
    if (shapeOf(drawn)) take(drawn, drawn);
  };
  return (
    <div>
      <label>
        <span className="block font-semibold">Guides over the frame</span>
        <select
          className="select select-xs w-auto"
          value={free ? FREE : guides}
          onChange={(e) => {
            const taken = e.target.value;
            if (taken === FREE) draw(shapeOf(shape) ? text : "2.2");
            else take(null, taken);
          }}
        >
          {[...GUIDES, FREE].map((g) => (
            <option key={g}>{g}</option>
          ))}
        </select>
      </label>
      {free && (
        <label className="mt-1 block">
          width to 1{" "}
          <input
            className="input input-xs figure w-16"
            value={text}
            inputMode="decimal"
            aria-invalid={shapeOf(shape) === undefined}
            onChange={(e) => draw(e.target.value)}
          />
        </label>
      )}
    </div>
  );
}
