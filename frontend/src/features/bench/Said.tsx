import type { Schemas } from "../../api/client";

/** What a route says of some rows of the ledger: what is done, and what to look out for. */
export function Said({
  one,
  ours,
}: {
  one: Schemas["DeliverableOut"];
  ours: (row: string) => boolean;
}) {
  const steps = one.steps.filter((s) => s.rows.some(ours));
  const cautions = one.cautions.filter((c) => c.row && ours(c.row) && !c.blocks);
  return (
    <>
      {steps.map((s) => (
        <p key={s.title}>
          <b>{s.title}</b> {s.reason}
        </p>
      ))}
      {cautions.map((c) => (
        <p key={c.what}>
          <b>{c.what}</b> {c.why} {c.way_out}
        </p>
      ))}
    </>
  );
}
