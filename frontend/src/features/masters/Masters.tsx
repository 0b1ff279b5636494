import { useQueryClient } from "@tanstack/react-query";
import { AudioLines, FolderInput, Upload as UploadIcon } from "lucide-react";
import { useDeferredValue, useRef, useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { masterFrame } from "../../api/pictures";
import { useProgress } from "../../api/live";
import { PageHead } from "../../ui/PageHead";
import { bytes } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { UploadList } from "./UploadList";
import { Intake } from "./Intake";
import { Selected } from "./Selected";
import { send } from "./upload";
import { touch } from "../../api/keys";
import { useMasters, useProductions } from "../../api/queries";
import { useAddress } from "../../ui/address";
import { Button } from "../../ui/Button";
import { useDismissMasters, useReadAgain } from "../../api/mutations/masters";
import { Table } from "../../ui/Table";

type Master = Schemas["MasterOut"];
const PAGE = 100;
const ORIGINS: Record<string, string> = {
  intake: "in place, from an intake folder",
  upload: "uploaded",
  sequence: "image sequence",
};

export function Masters() {
  const client = useQueryClient();
  const go = useNavigate();
  const [search, setSearch] = useAddress("q", "");
  const [production, setProduction] = useAddress("production", "");
  const [many, setMany] = useState(PAGE);
  const q = useDeferredValue(search);
  const list = useMasters({ q, limit: many, ...(production ? { production } : {}) });
  const productions = useProductions();
  const [open, setOpen] = useState(false);
  const [over, setOver] = useState(false);
  const [picked, setPicked] = useState<Master[]>([]);
  const input = useRef<HTMLInputElement>(null);
  const find = useRef<HTMLInputElement>(null);
  const refresh = () => void touch(client, ["master"]);
  const takeFiles = (files: FileList | null) => {
    for (const f of files ?? []) send(f, refresh);
  };
  const crate = () => {
    if (picked.length) void go(`/crates/new?masters=${picked.map((p) => p.id).join(",")}`);
  };
  const several = () => void go(`/crates/several?masters=${picked.map((p) => p.id).join(",")}`);
  const pick = (m: Master, on: boolean) =>
    setPicked((p) =>
      on ? [...p.filter((o) => o.id !== m.id), m] : p.filter((o) => o.id !== m.id),
    );
  useKeys([
    { key: "a", does: "add files", run: () => input.current?.click() },
    { key: "i", does: "open or close the intake folder", run: () => setOpen((o) => !o) },
    { key: "/", does: "search", run: () => find.current?.focus() },
    { key: "c", does: "crate from the selected masters", run: crate },
  ]);
  const rows = list.data?.rows ?? [];
  const total = list.data?.total ?? 0;
  const filtered = q.trim() !== "" || production !== "";
  return (
    <div
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        takeFiles(e.dataTransfer.files);
      }}
    >
      <PageHead title="Masters">
        <input
          ref={find}
          type="search"
          className="input input-sm w-72"
          placeholder="interlaced 5.1 over 10 GB -prores"
          title="Words must all be there; a minus bars one; over and under take sizes and lengths"
          aria-label="Search masters"
          value={search}
          onChange={(e) => {
            setSearch(e.target.value);
            setMany(PAGE);
          }}
        />
        {(productions.data?.length ?? 0) > 0 && (
          <select
            aria-label="production"
            className="select select-sm w-44"
            value={production}
            onChange={(e) => setProduction(e.target.value)}
          >
            <option value="">all productions</option>
            {productions.data?.map((p) => (
              <option key={p.name} value={p.name}>
                {p.name} ({p.masters})
              </option>
            ))}
          </select>
        )}
        <Button size="sm" onClick={() => setOpen((o) => !o)} aria-expanded={open}>
          <FolderInput size={15} aria-hidden /> Intake folder
        </Button>
        <Button size="sm" tone="primary" onClick={() => input.current?.click()}>
          <UploadIcon size={15} aria-hidden /> Add files
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          aria-label="Files to add"
          onChange={(e) => {
            takeFiles(e.target.files);
            e.target.value = "";
          }}
        />
      </PageHead>
      {over && (
        <p className="mb-2 border-2 border-dashed border-primary p-4 text-center">
          Drop the files here: they go up in pieces.
        </p>
      )}
      {open && <Intake />}
      <UploadList choose={() => input.current?.click()} />
      {picked.length > 0 && (
        <Selected picked={picked} crate={crate} several={several} clear={() => setPicked([])} />
      )}
      {list.isPending && <Loading what="the masters" />}
      {list.isError && <Problem error={list.error} again={() => void list.refetch()} />}
      {(list.data?.unread.length ?? 0) > 0 && (
        <p role="alert" className="mb-2 text-error">
          Not understood: {list.data?.unread.join(", ")}. Sizes are in MB, MiB, GB or GiB; lengths
          in s, min or h.
        </p>
      )}
      {list.data && total === 0 && !filtered && (
        <Empty title="Nothing has been handed in">
          Drop files anywhere on this page, or take them from the intake folder on the server.
        </Empty>
      )}
      {list.data && total === 0 && filtered && (
        <Empty title="No master fits the search">
          <button
            className="underline"
            onClick={() => {
              setSearch("");
              setProduction("");
            }}
          >
            Clear it
          </button>{" "}
          to see all.
        </Empty>
      )}
      {rows.length > 0 && (
        <>
          <p className="muted" role="status">
            {total === rows.length
              ? `${total} ${total === 1 ? "master" : "masters"}`
              : `the newest ${rows.length} of ${total} masters`}
          </p>
          <Table
            columns={[
              { head: "select", hidden: true },
              "picture",
              "master",
              "what it is",
              { head: "size", className: "text-right" },
              "state",
            ]}
          >
            <tbody>
              {rows.map((m) => (
                <Row
                  key={m.id}
                  master={m}
                  picked={picked.some((p) => p.id === m.id)}
                  pick={(on) => pick(m, on)}
                />
              ))}
            </tbody>
          </Table>
          {total > rows.length && (
            <Button
              size="sm"
              className="mt-2"
              onClick={() => setMany((n) => Math.min(500, n + PAGE))}
              disabled={many >= 500}
            >
              {many >= 500 ? "Narrow the search to see others" : "Show more"}
            </Button>
          )}
        </>
      )}
    </div>
  );
}

function Row({
  master,
  picked,
  pick,
}: {
  master: Master;
  picked: boolean;
  pick: (on: boolean) => void;
}) {
  const progress = useProgress(
    "master",
    master.id,
    master.state === "measuring" ? master.progress : null,
  );
  const read = useReadAgain();
  const dismiss = useDismissMasters();
  const seen = master.state === "ready" || master.state === "measuring";
  return (
    <tr className="hover:bg-base-200">
      <td>
        {
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            aria-label={`select ${master.name}`}
            checked={picked}
            onChange={(e) => pick(e.target.checked)}
          />
        }
      </td>
      <td className="w-32">
        <div className="grey-wall flex h-14 w-25 items-center justify-center">
          {seen && !master.has_picture && (
            <AudioLines className="text-white" size={28} aria-label="sound alone" />
          )}
          {seen && master.has_picture && (
            <img
              className="max-h-14"
              alt=""
              loading="lazy"
              src={masterFrame(master, Math.floor(master.frames / 2), 160)}
            />
          )}
        </div>
      </td>
      <td>
        <Link className="font-semibold break-all hover:underline" to={`/masters/${master.id}`}>
          {master.name}
        </Link>
        <div className="muted">
          {ORIGINS[master.origin] ?? master.origin}
          {master.production ? `, ${master.production}` : ""}
        </div>
      </td>
      <td>{master.summary.join(", ")}</td>
      <td className="figure text-right whitespace-nowrap">{bytes(master.size)}</td>
      <td className="max-w-72">
        {master.state === "reading" && "being read"}
        {master.state === "measuring" && (
          <>
            {progress?.stage === "checksum" ? "checksum" : "measuring"}{" "}
            {progress ? <span className="figure">{Math.round(100 * progress.share)} %</span> : ""}
          </>
        )}
        {master.state === "ready" && master.contradictions.length > 0 && (
          <p className="border-l-4 border-warning pl-1">
            header and decoding disagree: {master.contradictions.join(", ")}
          </p>
        )}
        {master.state === "ready" &&
          (master.notes.length ? (
            <span className="text-error">{master.notes[0]}</span>
          ) : (
            "measured"
          ))}
        {(master.state === "failed" || master.state === "changed") && (
          <div role="alert">
            <p className="font-semibold text-error">{master.error?.what}</p>
            <p>{master.error?.way_out}</p>
            <Button className="mr-1" onClick={() => read.mutate(master.id)}>
              Read again
            </Button>
            <Button onClick={() => dismiss.mutate([master.id])}>Dismiss</Button>
          </div>
        )}
        {(read.isError || dismiss.isError) && <Problem error={read.error ?? dismiss.error} />}
      </td>
    </tr>
  );
}
