import { useState } from "react";
import { useNavigate, useParams } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useClone } from "../../api/mutations/many";
import { useCrate, useMasters, useRecipients } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Select } from "../../ui/Field";
import { PageHead } from "../../ui/PageHead";
import { Table } from "../../ui/Table";
import { forField, tomorrow } from "../../ui/due";
import { Loading, Problem } from "../../ui/states";
import { TitleAndDue } from "./TitleAndDue";

type Page = Schemas["CratePage"];
type Master = Schemas["MasterOut"];
type Pair = { like: number; master: number };

/** A crate like another, with other masters. */
export function CloneCrate() {
  const id = Number(useParams().id);
  const crate = useCrate(id);
  const [search, setSearch] = useState("");
  const masters = useMasters({ q: search, limit: 200 });
  const recipients = useRecipients();
  if (crate.isPending || masters.isPending || recipients.isPending)
    return <Loading what="the crate and the masters" />;
  if (!crate.data || !masters.data || !recipients.data)
    return <Problem error={crate.error ?? masters.error ?? recipients.error} />;
  const { key } = crate.data.recipient;
  const usual = recipients.data.find((r) => r.key === key)?.due_at;
  const usable = masters.data.rows.filter((m) => m.state === "ready" || m.state === "measuring");
  return (
    <Form
      key={id}
      crate={crate.data}
      usual={usual ? forField(new Date(usual)) : tomorrow()}
      masters={usable}
      search={search}
      setSearch={setSearch}
    />
  );
}

type Given = {
  crate: Page;
  /** When it is due, where nothing else is said. */
  usual: string;
  masters: Master[];
  search: string;
  setSearch: (text: string) => void;
};

function Form({ crate, usual, masters, search, setSearch }: Given) {
  const go = useNavigate();
  const [title, setTitle] = useState(crate.title);
  const [due, setDue] = useState(usual);
  const [pairs, setPairs] = useState<Pair[]>([]);
  const make = useClone(crate.id, { onSuccess: (made) => void go(`/crates/${made.id}`) });
  const first = crate.deliverables[0]?.id ?? 0;
  // In their order, and what comes after the last is like the first.
  const like = () => crate.deliverables[pairs.length]?.id ?? first;
  const turn = (master: number) =>
    setPairs((now) =>
      now.some((p) => p.master === master)
        ? now.filter((p) => p.master !== master)
        : [...now, { like: like(), master }],
    );
  const missing = [!title.trim() && "a title", !pairs.length && "a master"].filter(Boolean);
  return (
    <>
      <PageHead title={`Another crate like ${crate.number}`} />
      <p className="mb-2">
        To {crate.recipient.name}, {crate.spec_title}. What was chosen for the items of crate{" "}
        {crate.number} is chosen for the masters that stand for them; names are filled in anew.
      </p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate({
            title,
            due_at: new Date(due).toISOString(),
            items: pairs.map((p) => ({ ...p, span: null })),
          });
        }}
      >
        <div className="mb-3 flex flex-wrap items-end gap-3">
          <TitleAndDue title={title} setTitle={setTitle} due={due} setDue={setDue} />
          <Button
            type="submit"
            size="sm"
            tone="primary"
            disabled={missing.length > 0 || make.isPending}
          >
            Make the crate
          </Button>
          {missing.length > 0 && <span className="muted">Still needed: {missing.join(", ")}.</span>}
        </div>
        {make.isError && <Problem error={make.error} />}
        <input
          type="search"
          className="input input-sm mb-1 w-72"
          aria-label="Search masters"
          placeholder="search masters"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <Table
          label="Masters"
          columns={[{ head: "take", hidden: true, className: "w-6" }, "master", "stands for"]}
        >
          <tbody>
            {masters.map((m) => {
              const pair = pairs.find((p) => p.master === m.id);
              return (
                <tr key={m.id}>
                  <td>
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm"
                      aria-label={`take ${m.name}`}
                      checked={pair !== undefined}
                      onChange={() => turn(m.id)}
                    />
                  </td>
                  <td>
                    <span className="font-semibold break-all">{m.name}</span>{" "}
                    <span className="muted">{m.summary.slice(0, 3).join(", ")}</span>
                  </td>
                  <td>
                    {pair && (
                      <Select
                        aria-label={`${m.name} stands for`}
                        value={pair.like}
                        onChange={(e) =>
                          setPairs(
                            pairs.map((p) =>
                              p.master === m.id ? { ...p, like: Number(e.target.value) } : p,
                            ),
                          )
                        }
                      >
                        {crate.deliverables.map((d) => (
                          <option key={d.id} value={d.id}>
                            {d.item}
                          </option>
                        ))}
                      </Select>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      </form>
    </>
  );
}
