import { FileSpreadsheet } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSheet } from "../../api/queries";
import { Notice } from "../../ui/Notice";
import { Table } from "../../ui/Table";
import { Problem } from "../../ui/states";
import { Button } from "../../ui/Button";
import { usePaused } from "../../ui/paused";

type Given = { text: string; set: (text: string) => void };
const MOST = 1e6;

/** A sheet, dropped as a file or pasted. */
export function SheetField({ text, set }: Given) {
  const [wrong, setWrong] = useState("");
  const take = async (file: File | undefined) => {
    if (!file) return;
    setWrong(file.size > MOST ? `'${file.name}' is too long for a sheet of items.` : "");
    if (file.size <= MOST) set(await file.text());
  };
  return (
    <div>
      <label
        className={
          "flex cursor-pointer items-center gap-2 border border-dashed border-base-content/50 " +
          "p-3 focus-within:outline-2"
        }
        onDragOver={(e) => e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault();
          void take(e.dataTransfer.files[0]);
        }}
      >
        <FileSpreadsheet size={18} aria-hidden /> Drop a CSV file here, or press to choose one
        <input
          type="file"
          accept=".csv,.tsv,.txt,text/csv"
          className="sr-only"
          aria-label="Drop a CSV file here, or press to choose one"
          onChange={(e) => {
            void take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </label>
      <textarea
        className="textarea figure mt-1 h-32 w-full"
        aria-label="the sheet's text"
        placeholder={"master,episode\nlichen_hours_e03.mov,03"}
        spellCheck={false}
        value={text}
        onChange={(e) => set(e.target.value)}
      />
      {wrong && <Notice tone="error">{wrong}</Notice>}
    </div>
  );
}

/** What would come of a sheet, line by line, and the act that takes it. */
export function SheetLook({
  text,
  spec = null,
  crate = null,
  missing = [],
  act,
  busy,
  take,
}: {
  text: string;
  spec?: string | null;
  crate?: number | null;
  /** What is needed besides, in words. */
  missing?: string[];
  /** What taking the lines is called. */
  act: string;
  busy: boolean;
  take: (partly: boolean) => void;
}) {
  const settled = usePaused(text);
  const look = useSheet({ text: settled, spec, crate });
  if (!text.trim()) return null;
  if (look.isError) return <Problem error={look.error} />;
  if (!look.data || settled !== text)
    return (
      <p role="status" className="muted">
        Looking at the sheet
      </p>
    );
  const { lines, mistakes } = look.data;
  const wrong = new Set(mistakes.map((m) => m.line)).size;
  const words = lines.length === 1 ? "the line" : `the ${lines.length} lines`;
  return (
    <section aria-label="What comes of the sheet">
      {mistakes.length > 0 && <Mistakes mistakes={mistakes} />}
      <div className="flex flex-wrap items-center gap-2">
        <Button
          size="sm"
          tone="primary"
          disabled={busy || lines.length === 0 || missing.length > 0}
          onClick={() => take(wrong > 0)}
        >
          {act} {wrong > 0 ? `${words} without mistakes` : words}
        </Button>
        {missing.length > 0 && <span className="muted">Still needed: {missing.join(", ")}.</span>}
      </div>
      <Lines lines={lines} />
    </section>
  );
}

function Mistakes({ mistakes }: { mistakes: Schemas["MistakeOut"][] }) {
  const count = mistakes.length === 1 ? "One mistake" : `${mistakes.length} mistakes`;
  return (
    <Notice tone="error" role="alert">
      <b>{count} in the sheet.</b>
      <ul className="max-h-40 list-disc overflow-auto pl-5">
        {mistakes.map((m) => (
          <li key={`${m.line} ${m.column} ${m.what}`}>
            Line <span className="figure">{m.line}</span>
            {m.column && `, ${m.column}`}: {m.what} {m.way_out}
          </li>
        ))}
      </ul>
    </Notice>
  );
}

function Lines({ lines }: { lines: Schemas["LineOut"][] }) {
  if (!lines.length) return null;
  return (
    <div className="mt-2 border border-base-300">
      <Table label="Lines" columns={["line", "item", "file", "chosen", "to look at"]}>
        <tbody>
          {[...lines]
            .sort((a, b) => a.line - b.line)
            .map((l) => (
              <tr key={l.line}>
                <td className="figure">{l.line}</td>
                <td>
                  {l.item}
                  {!l.fresh && <span className="muted"> (changes it)</span>}
                </td>
                <td className="figure break-all">{l.file}</td>
                <td>{l.chosen.join(", ") || <span className="muted">as planned</span>}</td>
                <td>
                  <b>{l.worst === "unproven" ? "" : l.worst}</b> {l.says}
                </td>
              </tr>
            ))}
        </tbody>
      </Table>
    </div>
  );
}
