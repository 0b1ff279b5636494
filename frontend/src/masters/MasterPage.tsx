import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router-dom";
import { api, type Schemas, take } from "../api/client";
import { useProgress } from "../api/live";
import { Head } from "../ui/Frame";
import { Steps, Still, useFrames } from "../ui/Viewer";
import { bytes, timecode } from "../ui/format";
import { useKeys } from "../ui/keys";
import { Loading, Problem } from "../ui/states";

const GROUPS = ["picture", "motion", "sound", "file"];
const STRIP = 10;

export function MasterPage() {
  const id = Number(useParams().id);
  const page = useQuery({ queryKey: ["master", id], queryFn: () => take(api.GET("/api/masters/{id}", { params: { path: { id } } })) });
  if (page.isPending) return <Loading what="the master" />;
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  return <Shown master={page.data} />;
}

function Shown({ master }: { master: Schemas["MasterPage"] }) {
  const { frame, to, last, keys } = useFrames(master.frames, master.rate);
  const progress = useProgress("master", master.id, master.state === "measuring" ? master.progress : null);
  useKeys(keys);
  const picture = (n: number, width: number) => `/api/masters/${master.id}/frames/${n}?width=${width}`;
  const seen = master.has_picture && (master.state === "ready" || master.state === "measuring");
  const strip = Array.from({ length: STRIP }, (_, n) => Math.floor((n * last) / (STRIP - 1)));
  return (
    <>
      <Head title={master.name}>
        <Link className="btn btn-primary btn-sm" to={`/crates/new?masters=${master.id}`}>Put in a new crate</Link>
      </Head>
      <p className="muted mb-2">{master.summary.join(", ")}, {bytes(master.size)}{master.crates.length ? `. In ${master.crates.join("; ")}.` : ""}</p>
      {master.error && <div role="alert" className="mb-2 border-l-4 border-error bg-base-200 p-3"><b>{master.error.what}</b> {master.error.way_out}</div>}
      {master.notes.map((n) => <p key={n} role="alert" className="mb-2 border-l-4 border-error bg-base-200 p-2">{n}</p>)}
      {master.state === "measuring" && <p role="status" className="mb-2">Being measured by decoding it whole{progress ? <span className="figure"> {Math.round(100 * progress.share)} %</span> : ""}. Until then, what stands here is the header's word.</p>}
      <div className="grid gap-5 lg:grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)]">
        <div>
          {seen && (
            <>
              <Still className="aspect-video" src={picture(frame, 960)} alt={`frame ${frame}`} />
              <Steps frame={frame} to={to} last={last} rate={master.rate} />
              <div className="grey-wall flex gap-0.5 overflow-hidden p-0.5" role="group" aria-label="Pictures over the length">
                {strip.map((n, k) => (
                  <button key={k} onClick={() => to(n)} className="min-w-0 grow basis-0" aria-label={`go to ${timecode(n, master.rate)}`}>
                    <img className="w-full" loading="lazy" alt="" src={picture(n, 160)} />
                  </button>
                ))}
              </div>
            </>
          )}
          <h2 className="mt-4 font-semibold">Who would take it as it is</h2>
          <table className="rows w-full">
            <tbody>
              {master.fits.map((f) => (
                <tr key={f.spec}>
                  <td><Link className="hover:underline" to={`/specs/${f.spec}`}>{f.recipient}</Link><div className="muted">{f.title}</div></td>
                  <td className="font-semibold whitespace-nowrap">{f.answer}</td>
                  <td>{f.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <section aria-label="Facts">
          <table className="rows w-full">
            {GROUPS.map((g) => {
              const rows = master.facts.filter((f) => f.group === g);
              return rows.length ? (
                <tbody key={g}>
                  <tr className="group"><th colSpan={3} scope="rowgroup">{g}</th></tr>
                  {rows.map((f) => (
                    <tr key={f.key} title={f.meaning}>
                      <td>{f.label}{f.track > 1 ? `, track ${f.track}` : ""}</td>
                      <td className="figure">
                        {f.shown}
                        {f.contradicts && <div className="border-l-4 border-warning pl-1">header says {f.values.declared}</div>}
                      </td>
                      <td className="muted">{f.provenance}</td>
                    </tr>
                  ))}
                </tbody>
              ) : null;
            })}
          </table>
          {master.sha256 && <p className="figure mt-2 text-xs break-all">SHA-256 {master.sha256}</p>}
        </section>
      </div>
    </>
  );
}
