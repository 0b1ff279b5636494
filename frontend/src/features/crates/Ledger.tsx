import clsx from "clsx";
import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import { type Schemas } from "../../api/client";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { Problem } from "../../ui/states";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";
import { useChoose, useSignOff } from "../../api/mutations/crates";
import { Grouped, Table } from "../../ui/Table";
import { useChoiceInAddress } from "../../ui/address";
import { groupsOf, labelOf, type Matter, MATTERS } from "./requirements";

type Deliverable = Schemas["DeliverableOut"];
type Row = Schemas["LedgerRow"];
const GROUPS = ["picture", "motion", "sound", "file", "delivery"];

/**
 * master has | spec asks | route gives | file measures | verdict: first what is to be looked at;
 * what simply meets is folded by group and counted.
 */
export function Ledger({ deliverable, open }: { deliverable: Deliverable; open: boolean }) {
  const [shown, setShown] = useChoiceInAddress("rows", ["first", "all"] as const, "first");
  const known = new Set(deliverable.rows.map((r) => r.property));
  const loose = deliverable.cautions.filter((c) => !known.has(c.row));
  const folded = deliverable.rows.filter((r) => r.matters === "");
  // Where nothing stands out, all is shown: a table of nothing proves nothing.
  const plain = folded.length === deliverable.rows.length;
  const all = plain || shown === "all";
  return (
    <>
      {loose.map((c) => (
        <Caution key={c.what} caution={c} />
      ))}
      {!plain && <LedgerHead folded={folded} shown={shown} setShown={setShown} />}
      <Table
        columns={[
          { head: "property", className: "w-[15%]" },
          { head: "master has", className: "w-[14%]" },
          { head: "spec asks", className: "w-[17%]" },
          { head: "route gives", className: "w-[19%]" },
          { head: "file measures", className: "w-[15%]" },
          "verdict",
        ]}
        label="Ledger"
        className="w-full table-fixed"
      >
        <Grouped
          groups={all ? GROUPS : MATTERS.map(headOf)}
          of={(r) => (all ? r.group : headOf(r.matters))}
          rows={all ? deliverable.rows : deliverable.rows.filter((r) => r.matters)}
          span={6}
        >
          {(r, n) => (
            <LedgerLine key={`${r.property} ${n}`} row={r} deliverable={deliverable} open={open} />
          )}
        </Grouped>
      </Table>
    </>
  );
}

const HEADS: Record<Matter, string> = {
  breaks: "breaks",
  caution: "cautions",
  advice: "advice",
  unproven: "not proven",
  choice: "open to choose",
  change: "changed on the way",
  "": "meets",
};
const headOf = (matter: Matter) => HEADS[matter];

/** What is folded away, and the way to it. */
function LedgerHead({
  folded,
  shown,
  setShown,
}: {
  folded: Row[];
  shown: "first" | "all";
  setShown: (value: "first" | "all") => void;
}) {
  if (!folded.length) return null;
  return (
    <p className="mb-1 flex flex-wrap items-center gap-x-2">
      {shown === "first" ? (
        <span>
          <b className="figure">{folded.length}</b> requirements simply meet and are folded:{" "}
          {groupsOf(folded)}.
        </span>
      ) : (
        <span>All requirements are shown, by group.</span>
      )}
      <Button className="min-h-7" onClick={() => setShown(shown === "first" ? "all" : "first")}>
        {shown === "first" ? "Show all rows" : "Show what matters"}
      </Button>
    </p>
  );
}

function LedgerLine({
  row,
  deliverable,
  open,
}: {
  row: Row;
  deliverable: Deliverable;
  open: boolean;
}) {
  const cautions = deliverable.cautions.filter((c) => c.row === row.property);
  const bridge = deliverable.steps.find((s) => s.rows.includes(row.property));
  const changes = bridge && row.master.found !== row.route?.found;
  return (
    <>
      <tr title={row.sentence} data-property={row.property}>
        <td>
          {labelOf(row)}
          {row.part && <div className="muted text-xs">{row.part}</div>}
          {row.severity === "should" && <span className="muted"> (should)</span>}
        </td>
        <td className="figure break-words">
          {row.master.found || "-"}
          {row.contradiction && (
            <div className="border-l-4 border-warning pl-1 font-sans">{row.contradiction}</div>
          )}
        </td>
        <td className="figure break-words">{row.asked}</td>
        <td className="figure break-words">
          {row.property in deliverable.choices && open ? (
            <Choice row={row} deliverable={deliverable} />
          ) : (
            row.route?.found || "-"
          )}
          {changes && (
            <div className="muted font-sans text-xs" title={bridge.reason}>
              by: {bridge.title}
            </div>
          )}
        </td>
        <td className="figure break-words">{row.file?.found || "-"}</td>
        <td>
          <Told row={row} />
          {row.file && row.verdict !== "meets" && <div>{row.why}</div>}
          {row.exception && (
            <div className="border-l-4 border-accent pl-1">
              Signed off by {row.exception.by}: {row.exception.reason}
            </div>
          )}
          {row.may_except && open && <SignOff deliverable={deliverable} property={row.property} />}
        </td>
      </tr>
      {cautions.map((c) => (
        <tr key={c.what}>
          <td />
          <td colSpan={5}>
            <Caution caution={c} />
          </td>
        </tr>
      ))}
    </>
  );
}

/** The verdict on the file, or what is foretold of it. */
function Told({ row }: { row: Row }) {
  const verdict = row.file ? row.verdict : row.route?.verdict;
  if (verdict && (row.file || ["breaks", "advice"].includes(verdict)))
    return <VerdictBadge small verdict={verdict} />;
  return (
    <span className="muted">{verdict === "meets" ? "predicted to meet" : "not measured yet"}</span>
  );
}

function Caution({ caution }: { caution: Schemas["CautionOut"] }) {
  return (
    <div
      className={clsx(
        "flex gap-2 border-l-4 bg-base-200 px-2 py-1",
        caution.blocks ? "border-error" : "border-warning",
      )}
    >
      <TriangleAlert size={15} className="mt-0.5 shrink-0" aria-hidden />
      <span>
        <b>{caution.what}</b> {caution.why}{" "}
        {caution.figures && <span className="figure">{caution.figures}. </span>}
        {caution.way_out}
        {caution.blocks && <b> This blocks the route.</b>}
      </span>
    </div>
  );
}

const UNITS: Record<string, string> = { bit_count: "bits", hertz: "Hz", rate: "fps" };
/** The trade counts sound in kb/s and picture in Mb/s. */
const rateUnit = (property: string) =>
  property.startsWith("sound.") ? { name: "kb/s", size: 1e3 } : { name: "Mb/s", size: 1e6 };

/**
 * A value in the room the spec leaves, changed in place; emptied, it goes back to what is planned.
 */
function Choice({ row, deliverable }: { row: Row; deliverable: Deliverable }) {
  const options = deliverable.options[row.property];
  const held = deliverable.choices[row.property];
  const unit = row.kind === "bit_rate" ? rateUnit(row.property) : null;
  const planned = unit && typeof held === "number" ? String(held / unit.size) : String(held ?? "");
  const [text, setText] = useState<string | null>(null);
  const choose = useChoose(deliverable.id);
  const set = (value: string) => {
    if (value === planned) return setText(null);
    // Who writes a unit means it.
    const bare = unit && /^[\d.]+$/.test(value);
    choose.mutate(
      { property: row.property, value: value && bare ? `${value} ${unit.name}` : value || null },
      { onSuccess: () => setText(null) },
    );
  };
  const mine = row.property in deliverable.chosen;
  return (
    <span>
      {options ? (
        <Select
          aria-label={`choose ${row.label}`}
          value={planned}
          onChange={(e) => set(e.target.value)}
        >
          {options.map((o) => (
            <option key={o.value} value={o.value}>
              {o.label}
            </option>
          ))}
        </Select>
      ) : (
        <>
          <TextField
            className="w-20"
            aria-label={`choose ${row.label}`}
            value={text ?? planned}
            onChange={(e) => setText(e.target.value)}
            onBlur={(e) => {
              if (text !== null) set(e.target.value.trim());
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter") set((e.target as HTMLInputElement).value.trim());
              if (e.key === "Escape") setText(null);
            }}
          />
          {(unit ?? UNITS[row.kind]) && ` ${unit?.name ?? UNITS[row.kind]}`}
        </>
      )}
      {mine && (
        <button
          className="ml-1 font-sans text-xs underline"
          onClick={() => choose.mutate({ property: row.property, value: null })}
        >
          as planned
        </button>
      )}
      {choose.isError && (
        <div className="relative z-10 w-96 font-sans">
          <Problem error={choose.error} />
        </div>
      )}
    </span>
  );
}

function SignOff({ deliverable, property }: { deliverable: Deliverable; property: string }) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const [by, setBy] = useState("");
  const sign = useSignOff(deliverable.id);
  if (!open)
    return (
      <Button className="mt-1" onClick={() => setOpen(true)}>
        Sign off an exception
      </Button>
    );
  return (
    <form
      className="mt-1 flex flex-col gap-1"
      onSubmit={(e) => {
        e.preventDefault();
        sign.mutate({ property, reason, by });
      }}
    >
      <input
        className="input input-xs"
        placeholder="who agreed"
        aria-label="who agreed"
        value={by}
        onChange={(e) => setBy(e.target.value)}
      />
      <input
        className="input input-xs"
        placeholder="why it may go out so"
        aria-label="why it may go out so"
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <div>
        <Button type="submit" disabled={!by.trim() || !reason.trim()}>
          Sign off
        </Button>{" "}
        <Button tone="ghost" onClick={() => setOpen(false)}>
          Leave it
        </Button>
      </div>
      {sign.isError && <Problem error={sign.error} />}
    </form>
  );
}
