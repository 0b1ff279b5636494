import type { Schemas } from "../../api/client";
import type { Coding as CodingPart, Doc } from "./document";
import { type Judged, Line, type Part, Wrongs, short } from "./EditLine";
import { Select, TextField } from "../../ui/Field";

export function About({
  doc,
  set,
  vocabulary,
  fresh,
}: Part & { vocabulary: Schemas["Vocabulary"]; fresh: boolean }) {
  const put = (part: Partial<Doc>) => set({ ...doc, ...part }, `about ${Object.keys(part)[0]}`);
  const named = (title: string) => {
    // Until somebody writes a short name of their own, it follows the title.
    const follows = fresh && (doc.id === "" || doc.id === short(doc.title));
    put({ title, ...(follows ? { id: short(title) } : {}) });
  };
  return (
    <section aria-label="The document" className="mb-3 grid gap-x-6 lg:grid-cols-2">
      <div>
        <Line name="Title">
          <TextField
            className="grow"
            value={doc.title}
            maxLength={200}
            onChange={(e) => named(e.target.value)}
          />
        </Line>
        <Line name="Recipient">
          <Select value={doc.recipient} onChange={(e) => put({ recipient: e.target.value })}>
            <option value="">choose</option>
            {vocabulary.recipients.map((r) => (
              <option key={r.key} value={r.key}>
                {r.name} ({r.kind})
              </option>
            ))}
          </Select>
        </Line>
        <Line name="Short name" hint="lower case, figures and hyphens">
          <TextField
            className="figure w-44"
            value={doc.id}
            disabled={!fresh}
            onChange={(e) => put({ id: e.target.value })}
          />
        </Line>
      </div>
      <div>
        <Line name="Source">
          <TextField
            className="grow"
            placeholder="technical standards issue 4, section 3"
            value={doc.source ?? ""}
            onChange={(e) => put({ source: e.target.value })}
          />
        </Line>
        <Line name="Valid from" hint="empty: at once">
          <TextField
            type="date"

            value={doc.valid_from ?? ""}
            onChange={(e) => put({ valid_from: e.target.value || null })}
          />
        </Line>
        <Line name="In a line">
          <TextField
            className="grow"
            value={doc.summary ?? ""}
            onChange={(e) => put({ summary: e.target.value })}
          />
        </Line>
      </div>
    </section>
  );
}

export function Coding({ doc, set, wrong }: Part & Judged) {
  const coding = doc.coding ?? {};
  const put = (part: CodingPart) =>
    set({ ...doc, coding: { ...coding, ...part } }, `coding ${Object.keys(part)[0]}`);
  return (
    <section aria-label="How this house makes it">
      <h2 className="mb-1 border-b-2 border-accent font-semibold">how this house makes it</h2>
      <Wrongs wrong={wrong} place={["coding"]} />
      <Line name="Passes">
        <Select
          value={coding.passes ?? 1}
          onChange={(e) => put({ passes: Number(e.target.value) as CodingPart["passes"] })}
        >
          <option value={1}>one</option>
          <option value={2}>two</option>
        </Select>
      </Line>
      <Line name="Key frame at least every">
        <TextField
          className="w-20"
          value={coding.key_frame_every ?? "2 s"}
          onChange={(e) => put({ key_frame_every: e.target.value })}
        />
      </Line>
      <Line name="Rate buffer (VBV)" hint="bits; empty: as the rate asks">
        <TextField
          className="w-28"
          inputMode="numeric"
          value={coding.buffer_bits ?? ""}
          onChange={(e) => put({ buffer_bits: Number(e.target.value.replace(/\D/g, "")) || null })}
        />
      </Line>
      <Line name="Shape spread over">
        <Select
          value={coding.active_width ?? ""}
          onChange={(e) => put({ active_width: Number(e.target.value) || null })}
        >
          <option value="">all samples</option>
          {[720, 704, 702].map((n) => (
            <option key={n} value={n}>
              {n} samples
            </option>
          ))}
        </Select>
      </Line>
      <Line name="Where shapes differ">
        <Select
          value={coding.framing ?? "pad"}
          onChange={(e) => put({ framing: e.target.value as CodingPart["framing"] })}
        >
          <option value="pad">add bars</option>
          <option value="crop">cut the edges</option>
          <option value="stretch">stretch</option>
        </Select>
      </Line>
      <Line name="Master without sound">
        <Select
          value={coding.without_sound ?? "silent track"}
          onChange={(e) => put({ without_sound: e.target.value as CodingPart["without_sound"] })}
        >
          <option>silent track</option>
          <option>no track</option>
        </Select>
      </Line>
      <Line name="Transparency laid over">
        <TextField
          list="backgrounds"
          value={coding.background ?? "black"}
          onChange={(e) => put({ background: e.target.value })}
        />
        <datalist id="backgrounds">
          {["black", "white", "checker", "#204060", "none", "refused"].map((b) => (
            <option key={b} value={b} />
          ))}
        </datalist>
      </Line>
      <Line name="Loudness of a mix">
        <Select
          value={coding.loudness ?? "to the target"}
          onChange={(e) => put({ loudness: e.target.value as CodingPart["loudness"] })}
        >
          <option value="to the target">brought to the target</option>
          <option value="untouched">measured only</option>
        </Select>
      </Line>
    </section>
  );
}
