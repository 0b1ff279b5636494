import { Link } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { Problem } from "../../ui/states";
import { comparison } from "../specs/comparison";
import { Notice } from "../../ui/Notice";
import { Button } from "../../ui/Button";
import { useFollowSpec } from "../../api/mutations/crates";

type Page = Schemas["CratePage"];

/**
 * What the spec asks of the crate as a whole: bytes over all files, the week's quota, what goes
 * beside.
 */
export function WholeCrate({ crate }: { crate: Page }) {
  if (crate.whole.length === 0 && crate.beside.length === 0) return null;
  return (
    <section aria-label="The crate as a whole" className="mb-2 flex flex-wrap gap-x-6 gap-y-1">
      {crate.whole.map((f, n) => (
        <span key={n} title={f.sentence} className="flex items-center gap-2">
          <VerdictBadge small verdict={f.verdict} />
          <span>
            {f.label}: <span className="figure">{f.found || "not known"}</span>{" "}
            <span className="muted">asked {f.asked}.</span>
            {f.verdict !== "meets" && ` ${f.why}`}
          </span>
        </span>
      ))}
      {crate.beside.length > 0 && (
        <span className="muted">Beside the files: {crate.beside.join("; ")}.</span>
      )}
    </section>
  );
}

/** A newer version of the spec, what changed in it, and the way over. */
export function NewerSpec({ crate }: { crate: Page }) {
  const newer = crate.newer_spec;
  const follow = useFollowSpec(crate.id);
  if (!newer) return null;
  return (
    <Notice tone="warning" role="status">
      <b>
        Version {newer.version} of this spec is in force; this crate keeps version{" "}
        {crate.spec_version}.
      </b>
      <ul className="list-disc pl-5">
        {newer.changes.slice(0, 8).map((c) => (
          <li key={c}>{c}</li>
        ))}
        {newer.changes.length > 8 && <li>and {newer.changes.length - 8} more</li>}
      </ul>
      <Button
        tone="secondary"
        className="mt-1"
        disabled={follow.isPending}
        onClick={() => follow.mutate(newer.version)}
      >
        Plan with version {newer.version}
      </Button>{" "}
      <Link className="underline" to={comparison(crate.spec, crate.spec_version, newer.version)}>
        Compare the two
      </Link>
      {follow.isError && <Problem error={follow.error} />}
    </Notice>
  );
}
