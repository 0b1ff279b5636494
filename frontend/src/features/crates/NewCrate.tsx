import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router-dom";
import { masterFrame } from "../../api/pictures";
import { PageHead } from "../../ui/PageHead";
import { bytes } from "../../ui/format";
import { forField, tomorrow } from "../../ui/due";
import { Usual } from "./Usual";
import { useAddress } from "../../ui/address";
import { useMakeFromSheet } from "../../api/mutations/many";
import { SheetField, SheetLook } from "./Sheet";
import { Empty, Loading, Problem } from "../../ui/states";
import { useMaster, useMasters, useRecipients, useSpec, useSpecs } from "../../api/queries";
import { Button } from "../../ui/Button";
import { useMakeCrate } from "../../api/mutations/crates";

export function NewCrate() {
  const [query] = useSearchParams();
  const go = useNavigate();
  const specs = useSpecs();
  const known = useRecipients();
  const asked = query.get("masters") ?? "";
  const spans = (query.get("spans") ?? "").split(",").map(Number).filter(Boolean);
  const of = Number(query.get("of")) || 0;
  const [search, setSearch] = useState("");
  const found = useMasters({ q: search, limit: 50 });
  const named = useMasters({ ids: asked }, asked !== "");
  const source = useMaster(of, of > 0);
  const [title, setTitle] = useState("");
  const [recipient, setRecipient] = useState("");
  const [spec, setSpec] = useState(query.get("spec") ?? "");
  const page = useSpec(spec || undefined);
  const [due, setDue] = useState(tomorrow);
  const [picked, setPicked] = useState<number[]>(() =>
    asked.split(",").map(Number).filter(Boolean),
  );
  const [from, setFrom] = useAddress("from", "masters");
  const [sheet, setSheet] = useState("");
  const made = (one: { id: number }) => void go(`/crates/${one.id}`);
  const make = useMakeCrate({ onSuccess: made });
  const ofSheet = useMakeFromSheet({ onSuccess: made });
  if (specs.isPending || found.isPending) return <Loading what="specs and masters" />;
  if (!specs.data || !found.data) return <Problem error={specs.error ?? found.error} />;
  const chosen = specs.data.find((s) => s.id === spec);
  const who = recipient || chosen?.recipient.key || "";
  const to = known.data?.find((r) => r.key === who);
  const sets = (page.data?.reading.house_sets ?? []).map((s) => s.name);
  const recipients = [...new Map(specs.data.map((s) => [s.recipient.key, s.recipient])).values()];
  const all = [
    ...(named.data?.rows ?? []),
    ...found.data.rows.filter((m) => !named.data?.rows.some((n) => n.id === m.id)),
  ];
  const usable = all.filter((m) => m.state === "ready" || m.state === "measuring");
  const ranges = (source.data?.spans ?? []).filter((s) => spans.includes(s.id));
  const missing = [
    !title.trim() && "a title",
    !spec && "a spec",
    !due && "a due time",
    !picked.length && !spans.length && "a master",
  ].filter((m) => m !== false);
  const by = from === "sheet";
  return (
    <>
      <PageHead title="New crate" />
      <form
        className="grid max-w-5xl gap-6 lg:grid-cols-2"
        onSubmit={(e) => {
          e.preventDefault();
          const due_at = new Date(due).toISOString();
          make.mutate({ title, spec, due_at, masters: picked, spans });
        }}
      >
        <div className="flex flex-col gap-3">
          <label className="flex flex-col gap-0.5 font-semibold">
            Title
            <input
              className="input input-sm w-full font-normal"
              value={title}
              maxLength={200}
              onChange={(e) => setTitle(e.target.value)}
            />
          </label>
          <label className="flex flex-col gap-0.5 font-semibold">
            Recipient
            <select
              className="select select-sm w-full font-normal"
              value={who}
              onChange={(e) => {
                setRecipient(e.target.value);
                const to = known.data?.find((r) => r.key === e.target.value);
                const first = specs.data.find(
                  (s) => s.in_force && s.recipient.key === e.target.value,
                );
                setSpec(to?.usual?.spec ?? first?.id ?? "");
                if (to?.due_at) setDue(forField(new Date(to.due_at)));
              }}
            >
              <option value="">choose</option>
              {recipients.map((r) => (
                <option key={r.key} value={r.key}>
                  {r.name} ({r.kind})
                </option>
              ))}
            </select>
          </label>
          <label className="flex flex-col gap-0.5 font-semibold">
            Spec
            <select
              className="select select-sm w-full font-normal"
              value={spec}
              onChange={(e) => setSpec(e.target.value)}
            >
              <option value="">choose</option>
              {specs.data
                .filter((s) => s.in_force && (!who || s.recipient.key === who))
                .map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.title}
                  </option>
                ))}
            </select>
          </label>
          {chosen && (
            <p className="muted">
              {chosen.summary}{" "}
              <Link className="underline" to={`/specs/${chosen.id}`}>
                Read the spec
              </Link>
            </p>
          )}
          <label className="flex flex-col gap-0.5 font-semibold">
            Due
            <input
              type="datetime-local"
              className="input input-sm w-56 font-normal"
              value={due}
              onChange={(e) => setDue(e.target.value)}
            />
          </label>
          {to && <Usual key={to.key} recipient={to} spec={spec} sets={sets} />}
          {make.isError && <Problem error={make.error} />}
          {ofSheet.isError && <Problem error={ofSheet.error} />}
          <div role="group" aria-label="Items from" className="flex gap-1">
            {["masters", "sheet"].map((way) => (
              <Button
                key={way}
                className="min-h-7"
                tone={from === way ? "secondary" : "plain"}
                aria-pressed={from === way}
                onClick={() => setFrom(way)}
              >
                {way === "masters" ? "Choose masters" : "Take a sheet"}
              </Button>
            ))}
          </div>
          <div hidden={by}>
            <Button
              type="submit"
              size="sm"
              tone="primary"
              disabled={missing.length > 0 || make.isPending}
            >
              Make the crate
            </Button>
            {missing.length > 0 && (
              <p className="muted mt-1">Still needed: {missing.join(", ")}.</p>
            )}
          </div>
        </div>
        {by && (
          <fieldset className="min-w-0 lg:col-span-2">
            <legend className="font-semibold">Sheet of items</legend>
            <p className="muted mb-1">
              A line for each item, by the master&apos;s name; columns for a range, the fields of
              the name and all that may be chosen.
            </p>
            <SheetField text={sheet} set={setSheet} />
            {!spec && sheet && <p role="status">Choose the spec, and the lines are looked at.</p>}
            {spec && (
              <SheetLook
                text={sheet}
                spec={spec}
                missing={missing.filter((m) => m !== "a master" && m !== "a spec")}
                act="Make the crate of"
                busy={ofSheet.isPending}
                take={(partly) =>
                  ofSheet.mutate({
                    title,
                    spec,
                    due_at: new Date(due).toISOString(),
                    text: sheet,
                    partly,
                  })
                }
              />
            )}
          </fieldset>
        )}
        <fieldset hidden={by}>
          <legend className="font-semibold">Masters</legend>
          {ranges.length > 0 && (
            <p className="mb-1 border-l-4 border-accent pl-2">
              Of {source.data?.name}:{" "}
              {ranges.map((r) => `the range ${r.name}, ${r.frames} frames`).join("; ")}.
            </p>
          )}
          <input
            type="search"
            className="input input-sm mb-1 w-full"
            aria-label="Search masters"
            placeholder="search"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          {usable.length === 0 && (
            <Empty title="No master is ready">
              Hand one in under{" "}
              <Link className="underline" to="/masters">
                Masters
              </Link>
              .
            </Empty>
          )}
          {usable.map((m) => (
            <label
              key={m.id}
              className="flex cursor-pointer items-center gap-3 border-b border-base-300 py-1"
            >
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={picked.includes(m.id)}
                onChange={(e) =>
                  setPicked((p) => (e.target.checked ? [...p, m.id] : p.filter((n) => n !== m.id)))
                }
              />
              {m.has_picture && (
                <img
                  alt=""
                  className="w-20"
                  loading="lazy"
                  src={masterFrame(m, Math.floor(m.frames / 2), 160)}
                />
              )}
              <span>
                <span className="font-semibold break-all">{m.name}</span>
                <br />
                <span className="muted">
                  {m.summary.join(", ")}, {bytes(m.size)}
                </span>
              </span>
            </label>
          ))}
        </fieldset>
      </form>
    </>
  );
}
