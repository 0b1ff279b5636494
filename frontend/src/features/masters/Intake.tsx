import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Folder, Images } from "lucide-react";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { bytes } from "../../ui/format";
import { Loading, Problem } from "../../ui/states";
import { keys } from "../../api/keys";
import { Button } from "../../ui/Button";
import { useIngest, useWatchFolder } from "../../api/mutations/masters";

const RATES = ["24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60"];

/** What lies in the intake folders on the server: read in place, one folder at a time. */
export function Intake() {
  const [folder, setFolder] = useState(0);
  const [inner, setInner] = useState("");
  const [picked, setPicked] = useState<string[]>([]);
  const [rate, setRate] = useState("25");
  const [production, setProduction] = useState("");
  const place = (f: number, i: string) => {
    setFolder(f);
    setInner(i);
    setPicked([]);
  };
  const look = useQuery({
    queryKey: keys.masters.intake(folder, inner),
    placeholderData: keepPreviousData,
    queryFn: () => unwrap(api.GET("/api/intake", { params: { query: { folder, inner } } })),
  });
  const grab = useIngest({ onSuccess: () => setPicked([]) });
  const ingest = (names: string[]) => grab.mutate({ folder, inner, names, rate, production });
  const watch = useWatchFolder();
  if (!look.data)
    return look.isError ? (
      <Problem error={look.error} again={() => place(0, "")} />
    ) : (
      <Loading what="the intake folder" />
    );
  const { folders, items } = look.data;
  const fresh = items.filter((i) => i.kind !== "folder" && !i.taken);
  const parts = inner ? inner.split("/") : [];
  const sequences = fresh.some((i) => i.kind === "sequence");
  const here = folders[folder];
  return (
    <section aria-label="Intake folder" className="tape mb-3 bg-base-200 p-3">
      {grab.isError && <Problem error={grab.error} />}
      {watch.isError && <Problem error={watch.error} />}
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="font-semibold">On the server, read in place</h2>
        <select
          aria-label="intake folder"
          className="select select-xs figure w-auto"
          value={folder}
          onChange={(e) => place(Number(e.target.value), "")}
        >
          {folders.map((f, n) => (
            <option key={f.path} value={n}>
              {f.path}
            </option>
          ))}
        </select>
        {parts.map((p, n) => (
          <span key={n} className="figure">
            /{" "}
            <button
              className="hover:underline"
              onClick={() => place(folder, parts.slice(0, n + 1).join("/"))}
            >
              {p}
            </button>
          </span>
        ))}
        {parts.length > 0 && (
          <Button onClick={() => place(folder, parts.slice(0, -1).join("/"))}>Up</Button>
        )}
        <label className="ml-auto flex items-center gap-1">
          <input
            type="checkbox"
            className="toggle toggle-xs"
            checked={here?.watched ?? false}
            onChange={(e) => watch.mutate({ folder, on: e.target.checked })}
          />{" "}
          watch: take in what is new by itself
        </label>
      </div>
      {items.length === 0 && <p className="muted">The folder is empty.</p>}
      {fresh.length > 0 && (
        <div className="flex flex-wrap items-center gap-2 py-1">
          <Button disabled={grab.isPending} onClick={() => ingest(fresh.map((f) => f.name))}>
            Take in everything new here ({fresh.length})
          </Button>
          {picked.length > 0 && (
            <Button tone="primary" disabled={grab.isPending} onClick={() => ingest(picked)}>
              Take in {picked.length} chosen
            </Button>
          )}
          {sequences && (
            <label className="flex items-center gap-1">
              image sequences run at
              <select
                className="select select-xs w-auto"
                value={rate}
                onChange={(e) => setRate(e.target.value)}
              >
                {RATES.map((r) => (
                  <option key={r}>{r}</option>
                ))}
              </select>{" "}
              frames a second
            </label>
          )}
          <label className="flex items-center gap-1">
            for the production{" "}
            <input
              className="input input-xs w-40"
              value={production}
              maxLength={200}
              onChange={(e) => setProduction(e.target.value)}
            />
          </label>
        </div>
      )}
      <ul className="max-h-72 overflow-auto">
        {items.map((i) => (
          <li key={i.kind + i.name} className="flex items-center gap-3 py-0.5">
            {i.kind === "folder" ? (
              <button
                className="flex items-center gap-2 hover:underline"
                onClick={() => place(folder, [...parts, i.name].join("/"))}
              >
                <Folder size={14} aria-hidden /> {i.name}
              </button>
            ) : (
              <>
                <label className="flex w-[26rem] items-center gap-2 truncate" title={i.name}>
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    disabled={i.taken}
                    checked={picked.includes(i.name)}
                    onChange={(e) =>
                      setPicked((p) =>
                        e.target.checked ? [...p, i.name] : p.filter((n) => n !== i.name),
                      )
                    }
                  />
                  {i.kind === "sequence" && <Images size={14} aria-hidden />}{" "}
                  <span className="truncate">{i.name}</span>
                </label>
                <span className="figure w-24 text-right">{bytes(i.size)}</span>
                {i.kind === "sequence" && (
                  <span>
                    {i.count} images
                    {i.missing ? <b className="text-error">, {i.missing} missing</b> : ""}
                  </span>
                )}
                {i.taken ? (
                  <span className="muted">taken in</span>
                ) : (
                  <Button onClick={() => ingest([i.name])} disabled={grab.isPending}>
                    Take in
                  </Button>
                )}
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
