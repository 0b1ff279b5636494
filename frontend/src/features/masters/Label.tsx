import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useFindFrame } from "../../api/mutations/masters";
import { timecode } from "../../ui/format";

/** The timecode of a frame of a master; another is typed to go there. */
export function Label({
  name,
  master,
  frame,
  to,
}: {
  name: string;
  master: Schemas["MasterPage"];
  frame: number;
  to: (n: number) => void;
}) {
  const now = timecode(frame, master.rate, master.start_frame, master.drop_frame);
  const [typed, setTyped] = useState<string | null>(null);
  const find = useFindFrame(master.id, {
    onSuccess: (found) => {
      setTyped(null);
      to(found.frame);
    },
  });
  return (
    <>
      <input
        aria-label={name}
        className="input input-xs figure w-32"
        value={typed ?? now}
        onFocus={(e) => e.target.select()}
        onChange={(e) => {
          setTyped(e.target.value);
          find.reset();
        }}
        onBlur={() => {
          setTyped(null);
          find.reset();
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter" && typed !== null) find.mutate(typed);
          if (e.key === "Escape") setTyped(null);
        }}
      />
      {find.isError && (
        <span role="alert" className="text-error">
          {find.error.message}
        </span>
      )}
    </>
  );
}
