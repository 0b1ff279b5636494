import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useMakeCrates } from "../../api/mutations/many";
import { useMaster, useMasters, useRecipients, useTakers } from "../../api/queries";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { PageHead } from "../../ui/PageHead";
import { Grouped, Table } from "../../ui/Table";
import { forField, tomorrow } from "../../ui/due";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { TitleAndDue } from "./TitleAndDue";

type Taker = Schemas["TakerOut"];
const ORDER = ["accepts", "rewrap only", "needs an encode", "not known yet", "cannot"];
const numbers = (text: string | null) => (text ?? "").split(",").map(Number).filter(Boolean);

/** Masters to several recipients: a crate for each, made in one act. */
export function Several() {
  const [query] = useSearchParams();
  const spans = numbers(query.get("spans"));
  const of = Number(query.get("of")) || 0;
  const masters = numbers(query.get("masters"));
  const ids = [...new Set([...masters, of].filter(Boolean))].join(",");
  const takers = useTakers(ids);
  const named = useMasters({ ids }, ids !== "");
  if (!ids)
    return (
      <Empty title="No master is chosen">
        Choose some under{" "}
        <Link className="underline" to="/masters">
          Masters
        </Link>
        , then deliver them to several recipients.
      </Empty>
    );
  if (takers.isPending || named.isPending) return <Loading what="who could take it" />;
  if (!takers.data || !named.data) return <Problem error={takers.error ?? named.error} />;
  return (
    <Form takers={takers.data} rows={named.data.rows} masters={masters} spans={spans} of={of} />
  );
}

type Given = {
  takers: Taker[];
  rows: Schemas["MasterOut"][];
  masters: number[];
  spans: number[];
  of: number;
};

function Form({ takers, rows, masters, spans, of }: Given) {
  const go = useNavigate();
  const source = useMaster(of, of > 0);
  const [title, setTitle] = useState("");
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [due, setDue] = useState(tomorrow);
  const [own, setOwn] = useState<Record<string, string>>({});
  const make = useMakeCrates({
    onSuccess: (made) => void go(`/items?crates=${made.map((one) => one.id).join(",")}`),
  });
  const able = takers.filter((t) => t.could);
  const usual = new Map(
    (useRecipients().data ?? []).map((r) => [r.key, r.due_at ? forField(new Date(r.due_at)) : ""]),
  );
  const dueOf = (t: Taker) => own[t.spec] ?? (usual.get(t.recipient_key) || due);
  const turn = (id: string) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const everyone = () => setPicked(new Set(able.map((t) => t.spec)));
  useKeys([
    { key: "e", does: "pick everyone who could take it", run: everyone },
    { key: "n", does: "pick nobody", run: () => setPicked(new Set()) },
  ]);
  const missing = [!title.trim() && "a title", !picked.size && "a recipient"].filter(Boolean);
  const dues = new Map(takers.map((t) => [t.spec, dueOf(t)]));
  const to = [...picked].map((spec) => ({
    spec,
    due_at: new Date(dues.get(spec) || due).toISOString(),
  }));
  const ranges = (source.data?.spans ?? []).filter((s) => spans.includes(s.id));
  const what = [
    ...rows.filter((m) => masters.includes(m.id)).map((m) => m.name),
    ...ranges.map((r) => `the range ${r.name} of ${source.data?.name}`),
  ];
  const sorted = [...takers].sort(
    (a, b) =>
      ORDER.indexOf(a.answer) - ORDER.indexOf(b.answer) || a.recipient.localeCompare(b.recipient),
  );
  return (
    <>
      <PageHead title="To several recipients" />
      <p className="mb-2">
        <b>{what.join(", ")}</b>. Each spec that is picked gets a crate of its own; what they have
        in common is decoded once.
      </p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate({ title, to, masters, spans });
        }}
      >
        <div className="mb-2 flex flex-wrap items-end gap-3">
          <TitleAndDue
            label="Title of the crates"
            title={title}
            setTitle={setTitle}
            due={due}
            setDue={setDue}
          />
          <Button size="sm" onClick={everyone}>
            Everyone who could take it ({able.length})
          </Button>
          <Button
            type="submit"
            size="sm"
            tone="primary"
            disabled={missing.length > 0 || make.isPending}
          >
            Make {picked.size === 1 ? "the crate" : `the ${picked.size} crates`}
          </Button>
          {missing.length > 0 && <span className="muted">Still needed: {missing.join(", ")}.</span>}
        </div>
        {make.isError && <Problem error={make.error} />}
        <Table
          label="Who could take it"
          columns={[
            { head: "pick", hidden: true, className: "w-6" },
            "recipient",
            "spec",
            "why",
            "due",
          ]}
        >
          <Grouped groups={ORDER} of={(t) => t.answer} rows={sorted} span={5}>
            {(t) => (
              <tr key={t.spec}>
                <td>
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm"
                    aria-label={`deliver to ${t.title}`}
                    checked={picked.has(t.spec)}
                    onChange={() => turn(t.spec)}
                  />
                </td>
                <td className="font-semibold">{t.recipient}</td>
                <td>
                  <Link className="hover:underline" to={`/specs/${t.spec}`}>
                    {t.title}
                  </Link>
                </td>
                <td>{t.why}</td>
                <td>
                  {picked.has(t.spec) && (
                    <TextField
                      type="datetime-local"
                      className="w-44"
                      aria-label={`due of ${t.title}`}
                      value={dueOf(t)}
                      onChange={(e) => setOwn({ ...own, [t.spec]: e.target.value })}
                    />
                  )}
                </td>
              </tr>
            )}
          </Grouped>
        </Table>
      </form>
    </>
  );
}
