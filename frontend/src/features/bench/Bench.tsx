import { Link, useParams } from "react-router-dom";
import { useCrate } from "../../api/queries";
import { Empty, Loading, Problem } from "../../ui/states";
import { Framing } from "./Framing";

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
  if (!one.master.has_picture)
    return <Empty title="The master has no picture">Its sound is planned on {back}.</Empty>;
  return <Framing key={one.id} crate={page.data} one={one} />;
}
