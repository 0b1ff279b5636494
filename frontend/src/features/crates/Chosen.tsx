import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useNear } from "../../api/queries";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { Still } from "../../ui/Viewer";
import { bytes, length } from "../../ui/format";

type Deliverable = Schemas["DeliverableOut"];
type Master = Schemas["MasterOut"];

/** The files that a crate goes out with: what each shows, how long it is, and its verdict. */
export function Chosen({ items }: { items: Deliverable[] }) {
  return (
    <ul aria-label="Files that go out" className="flex w-full flex-wrap gap-3">
      {items.map((one) => (
        <li key={one.id} className="flex gap-2">
          {one.finished && one.picture_size && (
            <Still
              className="h-16"
              src={`/api/runs/${one.finished.id}/frames/${Math.floor(one.frames / 2)}?width=240`}
              alt={`the middle of ${one.name}`}
            />
          )}
          <div className="leading-tight">
            <span className="figure block text-xs">{one.name}</span>
            {one.seconds !== null && <span className="figure">{length(one.seconds)}</span>}
            {one.finished?.size != null && (
              <span className="figure muted"> {bytes(one.finished.size)}</span>
            )}
            <div>
              <VerdictBadge small verdict={one.verdict} />
            </div>
            <NearNote master={one.master} />
          </div>
        </li>
      ))}
    </ul>
  );
}

/** Says that other masters are nearly the same as the one that was taken. */
export function NearNote({ master }: { master: Master }) {
  const moving = master.has_picture && master.frames > 1;
  const near = useNear(master.id, moving).data?.near ?? [];
  const others = near.filter((one) => one.shared !== one.same || one.before || one.after);
  if (others.length === 0) return null;
  return (
    <span className="block text-xs">
      {others.length === 1
        ? "another master nearly matches "
        : `${others.length} other masters nearly match `}
      <Link className="underline" to={`/masters/${master.id}`}>
        {master.name}
      </Link>
    </span>
  );
}
