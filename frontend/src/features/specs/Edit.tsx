import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Redo2, Undo2 } from "lucide-react";
import { useEffect, useReducer, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router-dom";
import { api, type Schemas, unwrap } from "../../api/client";
import { PageHead } from "../../ui/PageHead";
import { useKeys } from "../../ui/keys";
import { Loading, Problem } from "../../ui/states";
import type { Context } from "./controls";
import { type Doc, empty, forget, fresh, keep, keeping, kept, type Row } from "./document";
import { About, Coding } from "./EditParts";
import { Delivery } from "./EditDelivery";
import { Playback } from "./EditPlayback";
import { HouseChoices } from "./EditHouse";
import { EitherEditor } from "./EditEither";
import { Contradictions, GROUPS } from "./Reading";
import { PropertyChoice, RuleRow } from "./RuleRow";
import { history, type Past } from "./history";
import { keys } from "../../api/keys";
import { useSpec } from "../../api/queries";
import { Notice } from "../../ui/Notice";
import { Button } from "../../ui/Button";
import { useRepair, useSaveSpec } from "../../api/mutations/specs";
import { Table } from "../../ui/Table";

/** Parts of the document that say by themselves what is wrong with them. */
const PLACES = [
  "requirements",
  "either",
  "coding",
  "delivery",
  "playback",
  "house",
  "house_sets",
  "begins_with",
];

/** The editor: from a version that is there, or from what was begun under "Write a spec". */
export function EditSpec() {
  const id = useParams().id;
  const [query] = useSearchParams();
  const version = Number(query.get("version")) || undefined;
  const words = useQuery({
    queryKey: keys.vocabulary,
    staleTime: Infinity,
    queryFn: () => unwrap(api.GET("/api/specs/vocabulary")),
  });
  const page = useSpec(id, version, true);
  if (words.isPending || (id !== undefined && page.isPending)) return <Loading what="the editor" />;
  if (!words.data) return <Problem error={words.error} again={() => void words.refetch()} />;
  if (id === undefined)
    return (
      <Editor
        key="new"
        start={kept(keeping()) ?? empty()}
        base={null}
        vocabulary={words.data}
        place={keeping()}
      />
    );
  if (!page.data) return <Problem error={page.error} again={() => void page.refetch()} />;
  const newest = Math.max(...page.data.versions.map((v) => v.version));
  return (
    <Editor
      key={`${id} ${version}`}
      start={page.data.document as unknown as Doc}
      base={newest}
      vocabulary={words.data}
      place={keeping(id, page.data.reading.version)}
    />
  );
}

const plain = (doc: Doc) => doc as unknown as Record<string, unknown>;

type Given = { start: Doc; base: number | null; vocabulary: Schemas["Vocabulary"]; place: string };

function Editor({ start, base, vocabulary, place }: Given) {
  const go = useNavigate();
  const [past, step] = useReducer(history, null, (): Past => {
    // What was written before a reload is taken up again, as one step that can be undone.
    const found = base === null ? null : kept(place);
    return found
      ? { before: [start], now: found, after: [], mark: "" }
      : { before: [], now: start, after: [], mark: "" };
  });
  const doc = past.now;
  const [takenUp] = useState(() => base !== null && kept(place) !== null);
  const set = (next: Doc, mark = "") => step({ doc: next, mark });
  const [settled, setSettled] = useState(doc);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(doc), 250);
    return () => window.clearTimeout(timer);
  }, [doc]);
  const text = JSON.stringify(settled);
  const check = useQuery({
    queryKey: keys.check(text),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: () =>
      unwrap(
        api.POST("/api/specs/check", {
          body: {
            document: JSON.parse(text) as Record<string, unknown>,
            text: null,
            name: "the spec",
          },
        }),
      ),
  });
  const changed = past.before.length > 0 || base === null;
  useEffect(() => {
    if (changed) keep(place, doc);
    else forget(place);
  }, [doc, changed, place]);
  useEffect(() => {
    const ask = (e: BeforeUnloadEvent) => {
      if (changed) e.preventDefault();
    };
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [changed]);
  const saved = (status: "draft" | "in force") => ({ document: plain({ ...doc, status }), base });
  const save = useSaveSpec({
    onSuccess: (made) => {
      forget(place);
      void go(`/specs/${made.reading.id}?version=${made.reading.version}`);
    },
  });
  const mend = useRepair({ onSuccess: (made) => set(made.document as unknown as Doc) });
  useKeys([
    { key: "u", does: "undo", run: () => step("undo") },
    { key: "U", does: "redo", run: () => step("redo") },
  ]);
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        step(e.shiftKey ? "redo" : "undo");
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  const asked = (key: string) =>
    String(doc.requirements.find((r) => r.property === key)?.rule.is ?? "");
  const context: Context = {
    vocabulary,
    codec: asked("picture.codec"),
    aspect: asked("picture.display_aspect"),
  };
  const reading = check.data?.reading ?? null;
  const wrong = check.data?.wrong ?? [];
  const found = reading?.contradictions ?? [];
  const wrongAt = (n: number) =>
    wrong.find((w) => w.place[0] === "requirements" && w.place[1] === n)?.what;
  const missing = [
    !doc.title.trim() && "a title",
    !doc.recipient && "a recipient",
    !/^[a-z0-9][a-z0-9-]{1,60}$/.test(doc.id) &&
      "a short name of lower-case letters, figures and hyphens",
    doc.requirements.length === 0 && "a requirement",
  ].filter(Boolean);
  const loose = missing.length
    ? []
    : wrong.filter((w) => w.place.length === 0 || !PLACES.includes(String(w.place[0])));
  const rows = doc.requirements.map((row, n) => ({ row, n }));
  const setRow = (n: number, row: Row) =>
    set(
      { ...doc, requirements: doc.requirements.map((r, m) => (m === n ? row : r)) },
      `row ${n} ${Object.keys(row.rule)[0]}`,
    );
  const group = (key: string) =>
    vocabulary.properties.find((p) => p.key === key.split("@")[0])?.group;
  const placed = (row: Row) => found.filter((c) => c.properties[0] === row.property);
  const elsewhere = found.filter(
    (c) => !doc.requirements.some((r) => r.property === c.properties[0]),
  );
  const cannot = found.some((c) => c.grade === "contradiction");
  const blocked = missing.length > 0 || wrong.length > 0 || !reading;
  const draft = doc.status === "draft" || base === null;
  return (
    <>
      <PageHead title={base === null ? "Write a spec" : `Edit: ${doc.title}`}>
        <Button size="sm" onClick={() => step("undo")} disabled={!past.before.length} title="u">
          <Undo2 size={15} aria-hidden /> Undo
        </Button>
        <Button size="sm" onClick={() => step("redo")} disabled={!past.after.length}>
          <Redo2 size={15} aria-hidden /> Redo
        </Button>
        <Button
          size="sm"
          onClick={() => {
            forget(place);
            void go(base === null ? "/specs" : `/specs/${doc.id}`);
          }}
        >
          Leave without saving
        </Button>
        <Button
          size="sm"
          disabled={blocked || save.isPending}
          onClick={() => save.mutate(saved("draft"))}
        >
          Save as draft
        </Button>
        <Button
          size="sm"
          tone="primary"
          disabled={blocked || cannot || save.isPending}
          onClick={() => save.mutate(saved("in force"))}
        >
          {draft ? "Save and put in force" : "Save as a new version"}
        </Button>
      </PageHead>
      {!draft && base !== null && (
        <p className="muted mb-2">
          Version {doc.version} stays as it is for the crates that were planned with it; they are
          told of the new one.
        </p>
      )}
      {takenUp && past.before.length > 0 && (
        <Notice tone="accent" role="status">
          What you wrote before you left is here again; undo takes you back to version{" "}
          {start.version}.
        </Notice>
      )}
      {save.isError && <Problem error={save.error} />}
      {mend.isError && <Problem error={mend.error} />}
      {check.isError && <Problem error={check.error} again={() => void check.refetch()} />}
      <div aria-live="polite">
        {missing.length > 0 && (
          <Notice tone="warning">Still needed before it can be kept: {missing.join(", ")}.</Notice>
        )}
        {loose.map((w) => (
          <Problem key={w.what} error={new Error(`${w.what} ${w.way_out}`)} />
        ))}
        {cannot && (
          <Notice tone="error">
            As it stands no file can meet this spec. It can be kept as a draft, not put in force.
          </Notice>
        )}
      </div>
      <About doc={doc} set={set} vocabulary={vocabulary} fresh={base === null} />
      {elsewhere.length > 0 && (
        <div className="my-3">
          <Contradictions
            found={elsewhere}
            take={(c) => mend.mutate({ document: plain(doc), changes: c })}
          />
        </div>
      )}
      <Table columns={["property", "rule", "severity", "source", "note", ""]} label="Requirements">
        {GROUPS.map((g) => (
          <tbody key={g}>
            <tr className="group">
              <th colSpan={6} scope="rowgroup">
                {g}
              </th>
            </tr>
            {rows
              .filter(({ row }) => group(row.property) === g)
              .map(({ row, n }) => (
                <RuleRow
                  key={n}
                  row={row}
                  wrong={wrongAt(n)}
                  sentence={check.data?.sentences[n]}
                  found={placed(row)}
                  context={context}
                  change={(next) => setRow(n, next)}
                  remove={() =>
                    set({ ...doc, requirements: doc.requirements.filter((_, m) => m !== n) })
                  }
                  repair={(c) => mend.mutate({ document: plain(doc), changes: c })}
                />
              ))}
            <tr>
              <td colSpan={6}>
                <PropertyChoice
                  label={`add a requirement on ${g}`}
                  context={context}
                  group={g}
                  first={`add: ${g}`}
                  value=""
                  set={(key) =>
                    set({ ...doc, requirements: [...doc.requirements, fresh(key, vocabulary)] })
                  }
                />
              </td>
            </tr>
          </tbody>
        ))}
      </Table>
      <EitherEditor doc={doc} set={set} context={context} wrong={wrong} />
      <HouseChoices doc={doc} set={set} context={context} wrong={wrong} />
      <div className="grid gap-6 lg:grid-cols-2">
        <Coding doc={doc} set={set} wrong={wrong} />
        <Delivery doc={doc} set={set} vocabulary={vocabulary} wrong={wrong} />
        <Playback doc={doc} set={set} wrong={wrong} />
      </div>
    </>
  );
}
