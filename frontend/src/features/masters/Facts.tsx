import { PencilLine } from "lucide-react";
import { useState } from "react";
import { type Schemas } from "../../api/client";
import { Problem } from "../../ui/states";
import { Button } from "../../ui/Button";
import { useCorrect } from "../../api/mutations/masters";
import { Grouped, Table } from "../../ui/Table";

const GROUPS = ["picture", "motion", "sound", "file"];

export function Facts({ master }: { master: Schemas["MasterPage"] }) {
  const [editing, setEditing] = useState<string | null>(null);
  const [odd, setOdd] = useState(false);
  const shown = odd
    ? master.facts.filter((f) => f.contradicts || f.provenance === "assumed")
    : master.facts;
  const count = master.facts.filter((f) => f.contradicts).length;
  return (
    <section aria-label="Facts">
      <div className="flex items-center gap-2 pb-1">
        <h2 className="font-semibold">Facts</h2>
        {count > 0 && (
          <span className="border-l-4 border-warning pl-1">
            {count === 1 ? "1 contradiction" : `${count} contradictions`} between header and
            decoding
          </span>
        )}
        {(count > 0 || odd) && (
          <Button aria-pressed={odd} onClick={() => setOdd((o) => !o)}>
            {odd ? "all facts" : "only these"}
          </Button>
        )}
      </div>
      <Table>
        <Grouped groups={GROUPS} of={(r) => r.group} rows={shown} span={3}>
          {(f) => {
            const may = master.correctable.find((c) => c.key === f.key);
            return (
              <tr key={f.key} title={f.meaning}>
                <td>
                  {f.label}
                  {f.track > 1 ? `, track ${f.track}` : ""}
                </td>
                <td className="figure">
                  {editing === f.key && may ? (
                    <Correct master={master.id} fact={may} done={() => setEditing(null)} />
                  ) : (
                    f.shown
                  )}
                  {f.contradicts && (
                    <div className="border-l-4 border-warning pl-1">
                      header says {f.values.declared}
                      {f.provenance === "assumed" ? `, decoding shows ${f.values.measured}` : ""}
                    </div>
                  )}
                  {f.provenance === "assumed" && !f.contradicts && (
                    <div className="muted">
                      {f.values.measured
                        ? `decoding shows ${f.values.measured}`
                        : f.values.declared
                          ? `header says ${f.values.declared}`
                          : "not stated"}
                    </div>
                  )}
                </td>
                <td className="muted whitespace-nowrap">
                  {f.provenance === "assumed" ? <b>assumed</b> : f.provenance}
                  {may && editing !== f.key && (
                    <Button
                      tone="ghost"
                      className="ml-1"
                      aria-label={`correct ${may.label}`}
                      onClick={() => setEditing(f.key)}
                    >
                      <PencilLine size={12} />
                    </Button>
                  )}
                </td>
              </tr>
            );
          }}
        </Grouped>
      </Table>
      <Missing master={master} editing={editing} setEditing={setEditing} />
      {master.sha256 && <p className="figure mt-2 text-xs break-all">SHA-256 {master.sha256}</p>}
    </section>
  );
}

/** Facts that nothing tells, and a person may. */
function Missing({
  master,
  editing,
  setEditing,
}: {
  master: Schemas["MasterPage"];
  editing: string | null;
  setEditing: (k: string | null) => void;
}) {
  const missing = master.correctable.filter((c) => !master.facts.some((f) => f.key === c.key));
  if (!missing.length) return null;
  return (
    <p className="mt-2">
      <span className="muted">Not stated anywhere: </span>
      {missing.map((c) => (
        <span key={c.key} className="mr-2">
          {editing === c.key ? (
            <Correct master={master.id} fact={c} done={() => setEditing(null)} />
          ) : (
            <Button onClick={() => setEditing(c.key)}>say the {c.label}</Button>
          )}
        </span>
      ))}
    </p>
  );
}

function Correct({
  master,
  fact,
  done,
}: {
  master: number;
  fact: Schemas["Correctable"];
  done: () => void;
}) {
  const [value, setValue] = useState(fact.usual[0] ?? "");
  const put = useCorrect(master, fact.key, { onSuccess: done });
  return (
    <form
      className="flex flex-wrap items-center gap-1 font-sans"
      onSubmit={(e) => {
        e.preventDefault();
        put.mutate(value);
      }}
    >
      <select
        aria-label={`${fact.label} is`}
        className="select select-xs w-auto"
        value={value}
        onChange={(e) => setValue(e.target.value)}
      >
        {fact.usual.map((u) => (
          <option key={u}>{u}</option>
        ))}
      </select>
      <Button type="submit" tone="primary" disabled={put.isPending}>
        It is so
      </Button>
      {fact.corrected && <Button onClick={() => put.mutate(null)}>Take back</Button>}
      <Button tone="ghost" onClick={done}>
        Leave
      </Button>
      {put.isError && <Problem error={put.error} />}
    </form>
  );
}
