import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import { api, type Schemas, take } from "../../api/client";
import { Stamp } from "../../ui/Stamp";
import { Problem } from "../../ui/states";
import { comparison } from "../specs/comparison";
import { touch } from "../../api/keys";
import { Notice } from "../../ui/Notice";

type Page = Schemas["CratePage"];

/**
 * What the spec asks of the crate as a whole: bytes over all files, the week's quota, what goes
 * beside.
 */
export function Whole({ crate }: { crate: Page }) {
  if (crate.whole.length === 0 && crate.beside.length === 0) return null;
  return (
    <section aria-label="The crate as a whole" className="mb-2 flex flex-wrap gap-x-6 gap-y-1">
      {crate.whole.map((f, n) => (
        <span key={n} title={f.sentence} className="flex items-center gap-2">
          <Stamp small verdict={f.verdict} />
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
  const client = useQueryClient();
  const newer = crate.newer_spec;
  const follow = useMutation({
    mutationFn: (version: number) =>
      take(
        api.POST("/api/crates/{id}/spec", {
          params: { path: { id: crate.id } },
          body: { version },
        }),
      ),
    onSettled: () => touch(client, ["crate"]),
  });
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
      <button
        className="btn btn-secondary btn-xs mt-1"
        disabled={follow.isPending}
        onClick={() => follow.mutate(newer.version)}
      >
        Plan with version {newer.version}
      </button>{" "}
      <Link className="underline" to={comparison(crate.spec, crate.spec_version, newer.version)}>
        Compare the two
      </Link>
      {follow.isError && <Problem error={follow.error} />}
    </Notice>
  );
}
