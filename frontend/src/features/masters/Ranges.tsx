import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { timecode } from "../../ui/format";
import { Problem } from "../../ui/states";
import type { Marks } from "./Deck";
import { Button } from "../../ui/Button";
import { useForgetRange, useKeepRange } from "../../api/mutations/masters";
import { Table } from "../../ui/Table";

export function Ranges({
  master,
  marks,
  setMarks,
  to,
}: {
  master: Schemas["MasterPage"];
  marks: Marks;
  setMarks: (m: Marks) => void;
  to: (n: number) => void;
}) {
  const go = useNavigate();
  const [name, setName] = useState("");
  const [picked, setPicked] = useState<number[]>([]);
  const first = marks.first ?? 0;
  const last = marks.last ?? master.frames - 1;
  const keep = useKeepRange(master.id, {
    onSuccess: () => {
      setName("");
      setMarks({ first: null, last: null });
    },
  });
  const forget = useForgetRange(master.id);
  const label = (n: number) => timecode(n, master.rate, master.start_frame, master.drop_frame);
  const marked = marks.first !== null || marks.last !== null;
  return (
    <section aria-label="Ranges" className="mt-3">
      <h2 className="font-semibold">Ranges delivered as items of their own</h2>
      {!marked && master.spans.length === 0 && (
        <p className="muted">
          Mark a part with <kbd className="kbd kbd-xs">i</kbd> and{" "}
          <kbd className="kbd kbd-xs">o</kbd> to keep it as a range.
        </p>
      )}
      {marked && (
        <form
          className="flex flex-wrap items-center gap-2 py-1"
          onSubmit={(e) => {
            e.preventDefault();
            keep.mutate({ name, first, frames: last - first + 1 });
          }}
        >
          <span className="figure">
            {label(first)} to {label(last)}, {last - first + 1} frames
          </span>
          <input
            className="input input-xs w-40"
            aria-label="name of the range"
            placeholder="name of the range"
            value={name}
            maxLength={100}
            onChange={(e) => setName(e.target.value)}
          />
          <Button
            type="submit"
            tone="primary"
            disabled={!name.trim() || last < first || keep.isPending}
          >
            Keep the range
          </Button>
          <Button onClick={() => setMarks({ first: null, last: null })}>Clear the marks</Button>
          {last < first && (
            <span role="alert" className="text-error">
              The out mark lies before the in mark.
            </span>
          )}
          {keep.isError && <Problem error={keep.error} />}
        </form>
      )}
      {master.spans.length > 0 && (
        <Table
          columns={[
            { head: "select", hidden: true },
            "name",
            "from",
            "to",
            { head: "frames", className: "text-right" },
            { head: "acts", hidden: true },
          ]}
        >
          <tbody>
            {master.spans.map((s) => (
              <tr key={s.id}>
                <td>
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    aria-label={`select range ${s.name}`}
                    checked={picked.includes(s.id)}
                    onChange={(e) =>
                      setPicked((p) =>
                        e.target.checked ? [...p, s.id] : p.filter((n) => n !== s.id),
                      )
                    }
                  />
                </td>
                <td className="font-semibold">{s.name}</td>
                <td className="figure">
                  <button className="hover:underline" onClick={() => to(s.first)}>
                    {label(s.first)}
                  </button>
                </td>
                <td className="figure">
                  <button className="hover:underline" onClick={() => to(s.first + s.frames - 1)}>
                    {label(s.first + s.frames - 1)}
                  </button>
                </td>
                <td className="figure text-right">{s.frames}</td>
                <td className="whitespace-nowrap">
                  <Button
                    onClick={() => {
                      setMarks({ first: s.first, last: s.first + s.frames - 1 });
                      setName(s.name);
                      forget.mutate(s.id);
                    }}
                  >
                    Change
                  </Button>{" "}
                  <Button onClick={() => forget.mutate(s.id)}>Forget</Button>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {picked.length > 0 && (
        <Button
          size="sm"
          className="mt-1"
          onClick={() => void go(`/crates/new?spans=${picked.join(",")}&of=${master.id}`)}
        >
          Put {picked.length === 1 ? "this range" : `${picked.length} ranges`} in a new crate
        </Button>
      )}{" "}
      {picked.length > 0 && (
        <Button
          size="sm"
          className="mt-1"
          onClick={() => void go(`/crates/several?spans=${picked.join(",")}&of=${master.id}`)}
        >
          To several recipients
        </Button>
      )}
      {forget.isError && <Problem error={forget.error} />}
    </section>
  );
}
