import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { FolderInput, Upload as UploadIcon } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { api, type Schemas, take } from "../api/client";
import { useProgress } from "../api/live";
import { Head } from "../ui/Frame";
import { bytes } from "../ui/format";
import { useKeys } from "../ui/keys";
import { Empty, Loading, Problem } from "../ui/states";
import { send, useComing } from "./upload";

type Master = Schemas["MasterOut"];

export function Masters() {
  const client = useQueryClient();
  const go = useNavigate();
  const list = useQuery({ queryKey: ["masters"], queryFn: () => take(api.GET("/api/masters")) });
  const [search, setSearch] = useState("");
  const [open, setOpen] = useState(false);
  const [over, setOver] = useState(false);
  const [picked, setPicked] = useState<number[]>([]);
  const input = useRef<HTMLInputElement>(null);
  const find = useRef<HTMLInputElement>(null);
  const coming = useComing();
  const refresh = () => void client.invalidateQueries({ queryKey: ["masters"] });
  const takeFiles = (files: FileList | null) => { for (const f of files ?? []) send(f, refresh); };
  const crate = () => { if (picked.length) void go(`/crates/new?masters=${picked.join(",")}`); };
  useKeys([
    { key: "a", does: "add files", run: () => input.current?.click() },
    { key: "i", does: "open or close the intake folder", run: () => setOpen((o) => !o) },
    { key: "/", does: "search", run: () => find.current?.focus() },
    { key: "c", does: "crate from the selected masters", run: crate },
  ]);
  const shown = useMemo(() => {
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    return (list.data ?? []).filter((m) => words.every((w) => `${m.name} ${m.summary.join(" ")} ${m.state}`.toLowerCase().includes(w)));
  }, [list.data, search]);
  return (
    <div
      onDragOver={(e) => { e.preventDefault(); setOver(true); }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => { e.preventDefault(); setOver(false); takeFiles(e.dataTransfer.files); }}
    >
      <Head title="Masters">
        <input ref={find} type="search" className="input input-sm w-56" placeholder="name, size, codec, interlaced" aria-label="Search masters" value={search} onChange={(e) => setSearch(e.target.value)} />
        <button className="btn btn-sm" onClick={() => setOpen((o) => !o)} aria-expanded={open}><FolderInput size={15} aria-hidden /> Intake folder</button>
        {picked.length > 0 && <button className="btn btn-sm" onClick={crate}>Crate from {picked.length} selected</button>}
        <button className="btn btn-primary btn-sm" onClick={() => input.current?.click()}><UploadIcon size={15} aria-hidden /> Add files</button>
        <input ref={input} type="file" multiple hidden aria-label="Files to add" onChange={(e) => { takeFiles(e.target.files); e.target.value = ""; }} />
      </Head>
      {over && <p className="mb-2 border-2 border-dashed border-primary p-4 text-center">Drop the files here: they go up in pieces.</p>}
      {open && <Intake />}
      {coming.length > 0 && (
        <ul aria-label="Files on their way" className="tape mb-3 bg-base-200 p-2">
          {coming.map((c) => (
            <li key={c.key} className="flex items-center gap-3 py-0.5">
              <span className="w-64 truncate">{c.name}</span>
              <progress className="progress progress-secondary w-40" max={c.size || 1} value={c.sent} aria-label={`${c.name} sent`} />
              <span className="figure">{bytes(c.sent)} of {bytes(c.size)}</span>
              {c.state === "sending" && <button className="btn btn-xs" onClick={c.stop}>Pause</button>}
              {(c.state === "paused" || c.state === "failed") && <button className="btn btn-xs" onClick={c.go}>Go on</button>}
              {c.error && <span role="alert" className="text-error">{c.error}</span>}
            </li>
          ))}
        </ul>
      )}
      {list.isPending && <Loading what="the masters" />}
      {list.isError && <Problem error={list.error} again={() => void list.refetch()} />}
      {list.data?.length === 0 && <Empty title="Nothing has been handed in">Drop files anywhere on this page, or take them from the intake folder on the server.</Empty>}
      {list.data && list.data.length > 0 && shown.length === 0 && <Empty title="No master fits the search">Clear it to see all {list.data.length}.</Empty>}
      {shown.length > 0 && (
        <table className="rows w-full">
          <thead><tr className="muted"><th><span className="sr-only">select</span></th><th>picture</th><th>master</th><th>what it is</th><th className="text-right">size</th><th>state</th></tr></thead>
          <tbody>
            {shown.map((m) => (
              <Row key={m.id} master={m} picked={picked.includes(m.id)} pick={(on) => setPicked((p) => (on ? [...p, m.id] : p.filter((n) => n !== m.id)))} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Row({ master, picked, pick }: { master: Master; picked: boolean; pick: (on: boolean) => void }) {
  const client = useQueryClient();
  const progress = useProgress("master", master.id, master.state === "measuring" ? master.progress : null);
  const read = useMutation({ mutationFn: () => take(api.POST("/api/masters/{id}/read", { params: { path: { id: master.id } } })), onSettled: () => client.invalidateQueries() });
  const dismiss = useMutation({ mutationFn: () => take(api.DELETE("/api/masters/{id}", { params: { path: { id: master.id } } })), onSettled: () => client.invalidateQueries() });
  const seen = master.state === "ready" || master.state === "measuring";
  return (
    <tr className="hover:bg-base-200">
      <td>{seen && <input type="checkbox" className="checkbox checkbox-xs" aria-label={`select ${master.name}`} checked={picked} onChange={(e) => pick(e.target.checked)} />}</td>
      <td className="w-32">
        <div className="grey-wall flex h-14 w-25 items-center justify-center">
          {seen && master.has_picture && <img className="max-h-14" alt="" loading="lazy" src={`/api/masters/${master.id}/frames/${Math.floor(master.frames / 2)}?width=200`} />}
        </div>
      </td>
      <td>
        <Link className="font-semibold break-all hover:underline" to={`/masters/${master.id}`}>{master.name}</Link>
        <div className="muted">{master.origin === "intake" ? "in place, from the intake folder" : "uploaded"}</div>
      </td>
      <td>{master.summary.join(", ")}</td>
      <td className="figure text-right whitespace-nowrap">{bytes(master.size)}</td>
      <td className="max-w-72">
        {master.state === "reading" && "being read"}
        {master.state === "measuring" && <>measuring {progress ? <span className="figure">{Math.round(100 * progress.share)} %</span> : ""}</>}
        {master.state === "ready" && (master.notes.length ? <span className="text-error">{master.notes[0]}</span> : "measured")}
        {master.state === "failed" && (
          <div role="alert">
            <p className="font-semibold text-error">{master.error?.what}</p>
            <p>{master.error?.way_out}</p>
            <button className="btn btn-xs mr-1" onClick={() => read.mutate()}>Read again</button>
            <button className="btn btn-xs" onClick={() => dismiss.mutate()}>Dismiss</button>
          </div>
        )}
        {(read.isError || dismiss.isError) && <Problem error={read.error ?? dismiss.error} />}
      </td>
    </tr>
  );
}

function Intake() {
  const client = useQueryClient();
  const intake = useQuery({ queryKey: ["intake"], queryFn: () => take(api.GET("/api/masters/intake")) });
  const grab = useMutation({
    mutationFn: (body: { folder: number; names: string[] }) => take(api.POST("/api/masters/intake", { body })),
    onSettled: () => client.invalidateQueries(),
  });
  if (!intake.data) return intake.isError ? <Problem error={intake.error} /> : <Loading what="the intake folder" />;
  const { folders, files } = intake.data;
  return (
    <section aria-label="Intake folder" className="tape mb-3 bg-base-200 p-3">
      {grab.isError && <Problem error={grab.error} />}
      {folders.map((folder, n) => {
        const here = files.filter((f) => f.folder === n);
        const fresh = here.filter((f) => !f.taken).map((f) => f.name);
        return (
          <div key={folder}>
            <h2 className="font-semibold">On the server, read in place: <span className="figure break-all">{folder}</span></h2>
            {here.length === 0 && <p className="muted">The folder is empty.</p>}
            {fresh.length > 1 && <button className="btn btn-xs my-1" onClick={() => grab.mutate({ folder: n, names: fresh })}>Take in all {fresh.length} new files</button>}
            <ul>
              {here.map((f) => (
                <li key={f.name} className="flex items-center gap-3 py-0.5">
                  <span className="w-80 truncate" title={f.name}>{f.name}</span>
                  <span className="figure w-24 text-right">{bytes(f.size)}</span>
                  {f.taken ? <span className="muted">taken in</span> : <button className="btn btn-xs" onClick={() => grab.mutate({ folder: n, names: [f.name] })} disabled={grab.isPending}>Take in</button>}
                </li>
              ))}
            </ul>
          </div>
        );
      })}
    </section>
  );
}
