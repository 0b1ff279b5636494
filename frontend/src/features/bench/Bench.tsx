import { Link, useParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useCrate } from "../../api/queries";
import { useChoiceInAddress } from "../../ui/address";
import { Notice } from "../../ui/Notice";
import { PageHead } from "../../ui/PageHead";
import { Empty, Loading, Problem } from "../../ui/states";
import { Around } from "./Around";
import { BurnIn } from "./BurnIn";
import { Colour } from "./Colour";
import { Framing } from "./Framing";
import { Motion } from "./Motion";
import { Rate } from "./Rate";
import { Sound } from "./Sound";
import { Trim } from "./Trim";

const PARTS = [
  "framing",
  "motion",
  "trim",
  "leader",
  "colour",
  "sound",
  "rate",
  "burn-in",
] as const;

/** Where a deliverable is planned by looking at what comes of it. */
export function Bench() {
  const { id, deliverable } = useParams();
  const page = useCrate(Number(id));
  if (page.isPending) return <Loading what="the crate" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  const one = page.data.deliverables.find((d) => d.id === Number(deliverable));
  const back = (
    <Link className="underline" to={`/crates/${id}`}>
      the crate's page
    </Link>
  );
  if (!one) return <Empty title="There is no such deliverable">See {back}.</Empty>;
  return <Shown key={one.id} crate={page.data} one={one} />;
}

function Shown({ crate, one }: { crate: Schemas["CratePage"]; one: Schemas["DeliverableOut"] }) {
  const [chosen, setPart] = useChoiceInAddress("part", PARTS, "framing");
  const parts = one.master.has_picture ? PARTS : (["sound"] as const);
  const part = one.master.has_picture ? chosen : "sound";
  const open = crate.state === "open" && !crate.removed_at;
  const blocked = one.cautions.find((c) => c.blocks);
  const given = { crate, one, open };
  return (
    <>
      <PageHead title="Planning bench" number={String(crate.number)}>
        <div role="group" aria-label="Part of the bench" className="join">
          {parts.map((p) => (
            <button
              key={p}
              className={`btn join-item btn-sm ${part === p ? "btn-active" : ""}`}
              aria-pressed={part === p}
              onClick={() => setPart(p)}
            >
              {p}
            </button>
          ))}
        </div>
        <Link className="btn btn-sm" to={`/crates/${crate.id}?item=${one.id}`}>
          Back to the crate
        </Link>
      </PageHead>
      <p className="mb-1">
        {one.item}
        {!open && <span className="muted">, as it went out: the crate is {crate.state}</span>}
      </p>
      {blocked && (
        <Notice tone="error" role="alert">
          <b>{blocked.what}</b> {blocked.way_out}
        </Notice>
      )}
      {part === "framing" && <Framing {...given} />}
      {part === "motion" && <Motion {...given} />}
      {part === "trim" && <Trim {...given} />}
      {part === "leader" && <Around {...given} />}
      {part === "colour" && <Colour {...given} />}
      {part === "sound" && <Sound {...given} />}
      {part === "rate" && <Rate {...given} />}
      {part === "burn-in" && <BurnIn {...given} />}
    </>
  );
}
