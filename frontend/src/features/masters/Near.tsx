import { Link } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { masterFrame } from "../../api/pictures";
import { useNear } from "../../api/queries";
import { bytes, timecode } from "../../ui/format";
import { Problem } from "../../ui/states";

type Master = Schemas["MasterPage"];
type One = Schemas["NearOut"];
type Part = Schemas["OddPart"];
const WIDTH = 240;

/** Other masters that are nearly the same, and what tells them apart. */
export function Near({ master, to }: { master: Master; to: (frame: number) => void }) {
  const found = useNear(master.id);
  if (found.isError) return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data?.looked)
    return found.data ? (
      <p className="muted mb-4">
        Whether others are nearly the same is not known yet: read it again to have it looked at.
      </p>
    ) : null;
  const { near, wrapper } = found.data;
  if (near.length === 0) return null;
  return (
    <section aria-label="Nearly the same" className="mb-4">
      <h2 className="font-semibold">Nearly the same</h2>
      <ul>
        {near.map((one) => (
          <li key={one.master.id} className="border-t border-base-300 py-2">
            <p>
              <Link className="underline" to={`/masters/${one.master.id}`}>
                {one.master.name}
              </Link>{" "}
              <span className="muted">
                {one.master.summary.join(", ")}, {bytes(one.master.size)}
              </span>
            </p>
            <p>
              <b>{verdict(one, wrapper)}</b> {ends(one)}
            </p>
            {one.parts.length > 0 && <Parts master={master} one={one} to={to} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Says in a sentence how another master's pictures go with these. */
export function verdict(one: One, wrapper: string | null): string {
  if (one.coded && one.wrapper === wrapper) return "The very same coded pictures.";
  if (one.coded) return `The very same coded pictures, in ${one.wrapper ?? "another wrapper"}.`;
  const other = one.shared - one.same;
  if (other === 0) return "The same pictures as far as can be seen, coded otherwise.";
  return `${other} of ${one.shared} frames look otherwise.`;
}

/** Says what another master has more or less of at its ends. */
export function ends(one: One): string {
  const told = [
    [one.before, "at its start"],
    [one.after, "at its end"],
  ] as const;
  return told
    .filter(([frames]) => frames !== 0)
    .map(([frames, where]) => {
      const many = Math.abs(frames);
      const told = many === 1 ? "1 frame" : `${many} frames`;
      return `It has ${told} ${frames > 0 ? "more" : "less"} ${where}.`;
    })
    .join(" ");
}

function Parts({ master, one, to }: { master: Master; one: One; to: (frame: number) => void }) {
  const [first] = one.parts;
  return (
    <>
      <p className="flex flex-wrap items-center gap-1">
        <span className="muted">at</span>
        {one.parts.map((part) => (
          <button
            key={part.first}
            type="button"
            className="btn btn-xs figure min-h-7"
            onClick={() => to(part.first)}
          >
            {place(part, master)}
          </button>
        ))}
        {one.more > 0 && <span className="muted">and {one.more} more places</span>}
      </p>
      {first && (
        <div className="mt-1 flex flex-wrap gap-2">
          <Shot master={master} frame={middle(first, 0)} name="here" />
          <Shot master={one.master} frame={middle(first, first.other - first.first)} name="there" />
        </div>
      )}
    </>
  );
}

function Shot({
  master,
  frame,
  name,
}: {
  master: { id: number; mark: string };
  frame: number;
  name: string;
}) {
  return (
    <figure>
      <img
        className="bg-neutral"
        width={WIDTH}
        src={masterFrame(master, frame, 2 * WIDTH)}
        alt={`frame ${frame} ${name}`}
      />
      <figcaption className="muted">
        {name}, frame <span className="figure">{frame}</span>
      </figcaption>
    </figure>
  );
}

const middle = (part: Part, shift: number) => Math.floor((part.first + part.last) / 2) + shift;

function place(part: Part, master: Master): string {
  const at = timecode(part.first, master.rate, master.start_frame, master.drop_frame);
  const frames = part.last - part.first + 1;
  return `${at}, ${frames} ${frames === 1 ? "frame" : "frames"}`;
}
