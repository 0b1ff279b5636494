import { useState } from "react";
import { GUIDES, shapeOf } from "../masters/guides";

const FREE = "free";

/** Which guides lie over a frame: one of a list, or a shape of one's own. */
export function GuidesField({ guides, set }: { guides: string; set: (guides: string) => void }) {
  const [free, setFree] = useState(!GUIDES.includes(guides));
  const [text, setText] = useState(free ? guides.replace(/:1$/, "") : "2.2");
  const shape = `${text.trim()}:1`;
  const draw = (next: string) => {
    setText(next);
    if (shapeOf(`${next.trim()}:1`)) set(`${next.trim()}:1`);
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
            setFree(taken === FREE);
            set(taken === FREE ? shape : taken);
          }}
        >
          {[...GUIDES, FREE].map((g) => (
            <option key={g}>{g}</option>
          ))}
        </select>
      </label>
      {free && (
        <label className="ml-2">
          width for a height of 1{" "}
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
