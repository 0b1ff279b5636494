import type { Schemas } from "../../api/client";
import { useMaster } from "../../api/queries";
import { Button } from "../../ui/Button";
import { timecode } from "../../ui/format";
import type { Reframed } from "./reframed";

type Props = {
  master: Schemas["MasterOut"];
  ranges: Reframed[];
  /** Ways to set a part into the frame, and what they are called. */
  ways: { value: string; label: string }[];
  /** Which of them the frame shown lies in; null where in none. */
  within: number | null;
  /** The master's frame that is shown. */
  frame: number;
  /** Where a range begins that is being marked; null while none is. */
  from: number | null;
  mark: (from: number | null) => void;
  add: (first: number, last: number) => void;
  drop: (one: Reframed) => void;
  go: (frame: number) => void;
};

/** Ranges that are framed otherwise than the rest. */
export function Otherwise({
  master,
  ranges,
  ways,
  within,
  frame,
  from,
  mark,
  add,
  drop,
  go,
}: Props) {
  const page = useMaster(master.id).data;
  const label = (n: number) =>
    page ? timecode(n, page.rate, page.start_frame, page.drop_frame) : String(n);
  return (
    <section aria-label="Ranges framed otherwise">
      <h2 className="font-semibold">Ranges framed otherwise</h2>
      {within !== null && (
        <p role="status">What is set now is of the range that the frame shown lies in.</p>
      )}
      <div className="flex min-h-7 flex-wrap items-center gap-2">
        {from === null ? (
          <Button onClick={() => mark(frame)}>Frame otherwise from this frame</Button>
        ) : (
          <>
            <p>
              from <span className="figure">{label(from)}</span> to the frame shown,{" "}
              <span className="figure">{label(frame)}</span>
            </p>
            <Button onClick={() => add(Math.min(from, frame), Math.max(from, frame))}>
              Frame it otherwise
            </Button>
            <Button onClick={() => mark(null)}>Leave it as the rest</Button>
          </>
        )}
      </div>
      <ul className="mt-1 space-y-1">
        {ranges.map((one, n) => (
          <li key={one.first} className="flex min-h-7 flex-wrap items-center gap-2">
            <span className={n === within ? "figure font-semibold" : "figure"}>
              {label(one.first)} to {label(one.last)}
            </span>
            <span className="muted">
              {one.region || "all of the picture"}
              {one.framing && `, ${ways.find((w) => w.value === one.framing)?.label}`}
            </span>
            <Button onClick={() => go(one.first)}>Go to it</Button>
            <Button onClick={() => drop(one)}>As the rest</Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
