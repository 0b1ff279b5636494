import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { PageHead } from "../../ui/PageHead";
import { Problem } from "../../ui/states";
import { type Doc, empty, keep, keeping, type Row } from "./document";
import { short } from "./EditLine";
import { FileDrop } from "./FileDrop";
import { GROUPS } from "./Reading";
import { useMasters, useSpecs } from "../../api/queries";
import { Button } from "../../ui/Button";
import { useFetchSpec, useReadText, useRulesFromMaster } from "../../api/mutations/specs";
import { Grouped, Table } from "../../ui/Table";

const WAYS = [
  "from a file they accepted",
  "from a copy",
  "from YAML or JSON",
  "from nothing",
] as const;

/** Four ways to begin a spec; all of them lead to the editor. */
export function BeginSpec() {
  const go = useNavigate();
  const [query] = useSearchParams();
  const [way, setWay] = useState<(typeof WAYS)[number]>(
    query.get("copy") ? "from a copy" : WAYS[0],
  );
  const begin = (doc: Doc) => {
    keep(keeping(), doc);
    void go("/specs/write");
  };
  return (
    <>
      <PageHead title="Write a spec" />
      <div role="group" aria-label="Begin" className="join mb-3">
        {WAYS.map((w) => (
          <button
            key={w}
            className={`btn join-item btn-sm ${way === w ? "btn-active" : ""}`}
            aria-pressed={way === w}
            onClick={() => setWay(w)}
          >
            {w}
          </button>
        ))}
      </div>
      {way === "from nothing" && (
        <p>
          An empty document.{" "}
          <Button size="sm" tone="primary" className="ml-2" onClick={() => begin(empty())}>
            Begin
          </Button>
        </p>
      )}
      {way === "from a copy" && (
        <FromCopy
          begin={begin}
          id={query.get("copy") ?? ""}
          version={Number(query.get("version")) || undefined}
        />
      )}
      {way === "from YAML or JSON" && <FromText begin={begin} />}
      {way === "from a file they accepted" && <FromFile begin={begin} />}
    </>
  );
}

function FromCopy({
  begin,
  id,
  version,
}: {
  begin: (doc: Doc) => void;
  id: string;
  version?: number;
}) {
  const specs = useSpecs();
  const [chosen, setChosen] = useState(id);
  const fetch = useFetchSpec({
    onSuccess: (page) => {
      const doc = page.document as unknown as Doc;
      begin({
        ...doc,
        id: `${doc.id}-copy`,
        version: 1,
        status: "draft",
        title: `${doc.title}, copy`,
      });
    },
  });
  return (
    <div className="flex max-w-xl items-end gap-2">
      <label className="flex grow flex-col">
        Copy of
        <select
          className="select select-sm w-full"
          value={chosen}
          onChange={(e) => setChosen(e.target.value)}
        >
          <option value="">choose a spec</option>
          {specs.data?.map((s) => (
            <option key={s.id} value={s.id}>
              {s.recipient.name}: {s.title}
            </option>
          ))}
        </select>
      </label>
      <Button
        size="sm"
        tone="primary"
        disabled={!chosen || fetch.isPending}
        onClick={() => fetch.mutate({ id: chosen, version: chosen === id ? version : undefined })}
      >
        Begin
      </Button>
      {fetch.isError && <Problem error={fetch.error} />}
    </div>
  );
}

function FromText({ begin }: { begin: (doc: Doc) => void }) {
  const [text, setText] = useState("");
  const [name, setName] = useState("pasted text");
  const [wrong, setWrong] = useState<Schemas["Wrong"][]>([]);
  const read = useReadText({
    onSuccess: (made) => {
      setWrong(made.wrong);
      if (made.document) begin(made.document as unknown as Doc);
    },
  });
  const open = async (file: File | undefined) => {
    if (file) {
      setName(file.name);
      setText(await file.text());
    }
  };
  return (
    <div className="max-w-4xl">
      <label className="btn btn-sm mb-2">
        Open a file
        <input
          type="file"
          accept=".yaml,.yml,.json"
          className="sr-only"
          aria-label="Open a spec file"
          onChange={(e) => void open(e.target.files?.[0])}
        />
      </label>
      <textarea
        className="textarea figure h-80 w-full"
        aria-label="The spec's text"
        placeholder="id: …"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setWrong([]);
        }}
      />
      {wrong.map((w) => (
        <Problem key={w.what} error={new Error(`${w.what} ${w.way_out}`)} />
      ))}
      {read.isError && <Problem error={read.error} />}
      <Button
        size="sm"
        tone="primary"
        className="mt-2"
        disabled={!text.trim() || read.isPending}
        onClick={() => read.mutate({ text, name })}
      >
        Read it
      </Button>
    </div>
  );
}

function FromFile({ begin }: { begin: (doc: Doc) => void }) {
  const [trial, setTrial] = useState<Schemas["Trial"] | null>(null);
  const [search, setSearch] = useState("");
  const masters = useMasters({ q: search, limit: 8 });
  const from = useRulesFromMaster({ onSuccess: setTrial });
  if (trial) return <Proposals trial={trial} begin={begin} again={() => setTrial(null)} />;
  return (
    <div className="grid max-w-5xl gap-6 lg:grid-cols-2">
      <div>
        <p className="mb-2">
          A file that the recipient took says what they take. It is measured, its facts become
          rules, and you say which of them matter.
        </p>
        <FileDrop label="Drop the file here, or choose it; it is not kept." found={setTrial} />
      </div>
      <div>
        <input
          type="search"
          className="input input-sm mb-1 w-full"
          aria-label="Search masters"
          placeholder="or take one that is here: search masters"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <ul>
          {masters.data?.rows
            .filter((m) => m.state === "ready")
            .map((m) => (
              <li key={m.id} className="flex items-center gap-2 border-b border-base-300 py-1">
                <span className="grow">
                  <span className="break-all">{m.name}</span>{" "}
                  <span className="muted">{m.summary.slice(0, 4).join(", ")}</span>
                </span>
                <Button onClick={() => from.mutate(m.id)}>Take its facts</Button>
              </li>
            ))}
        </ul>
        {from.isError && <Problem error={from.error} />}
      </div>
    </div>
  );
}

function Proposals({
  trial,
  begin,
  again,
}: {
  trial: Schemas["Trial"];
  begin: (doc: Doc) => void;
  again: () => void;
}) {
  const [picked, setPicked] = useState(
    () => new Set(trial.proposals.filter((p) => p.usual).map((p) => p.property)),
  );
  const turn = (key: string) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const write = () =>
    begin({
      ...empty(),
      title: `As ${trial.name}`,
      id: short(`As ${trial.name}`),
      source: `a file they accepted: ${trial.name}`,
      requirements: trial.proposals
        .filter((p) => picked.has(p.property))
        .map((p) => p.row as unknown as Row),
    });
  return (
    <section aria-label="Rules that the file suggests">
      <p className="mb-1 flex flex-wrap items-center gap-2">
        <b className="break-all">{trial.name}</b> suggests {trial.proposals.length} rules. Leave
        those ticked that matter to the recipient.
        <Button size="sm" tone="primary" disabled={picked.size === 0} onClick={write}>
          Write a spec of these {picked.size}
        </Button>
        <Button size="sm" onClick={again}>
          Another file
        </Button>
      </p>
      {trial.notes.map((n) => (
        <p key={n} className="border-l-4 border-warning pl-2">
          {n}
        </p>
      ))}
      <Table columns={["", "property", "file has", "the rule it would be"]}>
        <Grouped groups={GROUPS} of={(r) => r.group} rows={trial.proposals} span={4}>
          {(p) => (
            <tr key={p.property} className={picked.has(p.property) ? "" : "muted"}>
              <td className="w-8">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  aria-label={`${p.label} matters`}
                  checked={picked.has(p.property)}
                  onChange={() => turn(p.property)}
                />
              </td>
              <td>
                {p.label}
                {p.property.includes("@") && `, track ${p.property.split("@")[1]}`}
              </td>
              <td className="figure">{p.shown}</td>
              <td>{p.because}</td>
            </tr>
          )}
        </Grouped>
      </Table>
    </section>
  );
}
