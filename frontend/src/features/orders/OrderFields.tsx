import { useState } from "react";
import { useSpecs, useZones } from "../../api/queries";
import { Select, TextField } from "../../ui/Field";
import { type Doc, idOf, linesOf, linesRead, put, putIn, table, words } from "./order";

type Props = { doc: Doc; setDoc: (doc: Doc) => void; isNew: boolean };
const GOES = ["plan", "run", "seal", "hand over"];
const GOES_SAID: Record<string, string> = {
  plan: "the plan",
  run: "the finished file",
  seal: "the sealed crate",
  "hand over": "the hand-over",
};
const text = (value: unknown) => (typeof value === "string" ? value : "");
const number = (value: string) => (value.trim() ? Number(value) : null);

/** The fields of an order. */
export function OrderFields({ doc, setDoc, isNew }: Props) {
  const specs = useSpecs().data ?? [];
  const source = table(doc, "source");
  const name = table(doc, "name");
  const limits = table(doc, "limits");
  const sends = table(doc, "sends");
  const due = table(doc, "due");
  const zones = useZones().data ?? [];
  const titled = (title: string) => {
    const next = put(doc, "title", title);
    setDoc(isNew ? { ...next, id: idOf(title) } : next);
  };
  return (
    <div className="grid max-w-4xl gap-3 lg:grid-cols-2">
      <Line label="Title">
        <TextField
          className="w-full"
          maxLength={200}
          value={text(doc.title)}
          onChange={(e) => titled(e.target.value)}
        />
      </Line>
      <Line label="Spec">
        <Select
          className="w-full"
          value={text(doc.spec)}
          onChange={(e) => setDoc(put(doc, "spec", e.target.value))}
        >
          <option value="">choose</option>
          {specs
            .filter((s) => s.in_force)
            .map((s) => (
              <option key={s.id} value={s.id}>
                {s.recipient.name}: {s.title}
              </option>
            ))}
        </Select>
      </Line>
      <Line label="Folder, inside an intake folder">
        <TextField
          className="w-full"
          placeholder="incoming/spots"
          value={text(source.folder)}
          onChange={(e) => setDoc(putIn(doc, "source", "folder", e.target.value))}
        />
      </Line>
      <Words
        label="Names that count; none for all"
        placeholder="*.mov, *.mxf"
        value={(source.names as string[] | undefined) ?? []}
        set={(names) => setDoc(putIn(doc, "source", "names", names))}
      />
      <Line label="Names are read by">
        <TextField
          className="w-full"
          placeholder="lantern_e{episode}_{*}"
          value={text(name.pattern)}
          onChange={(e) => setDoc(putIn(doc, "name", "pattern", e.target.value))}
        />
      </Line>
      <Lines
        label="Fields of the names, a line each"
        placeholder="episode: {episode}"
        value={table(name, "fields")}
        set={(fields) => setDoc(putIn(doc, "name", "fields", fields))}
      />
      <Lines
        label="Choices in the room that the spec leaves, a line each"
        placeholder="framing: crop"
        value={table(doc, "choices")}
        set={(choices) => setDoc(put(doc, "choices", choices))}
      />
      <Words
        label="Cautions that wait for a person: any, or properties"
        placeholder="motion.scan, picture.bit_rate"
        value={(doc.stops_for as string[] | undefined) ?? []}
        set={(kinds) => setDoc(put(doc, "stops_for", kinds))}
      />
      <Line label="It goes by itself up to">
        <Select
          value={text(doc.goes_to) || "hand over"}
          onChange={(e) => setDoc(put(doc, "goes_to", e.target.value))}
        >
          {GOES.map((g) => (
            <option key={g} value={g}>
              {GOES_SAID[g]}
            </option>
          ))}
        </Select>
      </Line>
      <Line label="It is made">
        <Select
          value={text(doc.makes) || "at once"}
          onChange={(e) => setDoc(put(doc, "makes", e.target.value))}
        >
          <option>at once</option>
          <option>at night</option>
        </Select>
      </Line>
      <Line label="Its crates are called">
        <TextField
          className="w-full"
          placeholder="{master}"
          value={text(doc.crate)}
          onChange={(e) => setDoc(put(doc, "crate", e.target.value))}
        />
      </Line>
      <Count
        label="They are due after so many working days"
        usual="1"
        value={due.days}
        set={(days) => setDoc(putIn(doc, "due", "days", days))}
      />
      <Count
        label="At work at a time, at most"
        usual="5"
        value={limits.at_once}
        set={(count) => setDoc(putIn(doc, "limits", "at_once", count))}
      />
      <Count
        label="Handed over on a day, at most"
        value={limits.a_day}
        set={(count) => setDoc(putIn(doc, "limits", "a_day", count))}
      />
      <Line label="Bytes handed over on a day, at most">
        <TextField
          className="w-28"
          placeholder="20 GB"
          value={text(limits.bytes_a_day)}
          onChange={(e) => setDoc(putIn(doc, "limits", "bytes_a_day", e.target.value))}
        />
      </Line>
      <Line label="Sent from">
        <TextField
          type="time"
          className="w-28"
          value={text(sends.begins)}
          onChange={(e) => setDoc(putIn(doc, "sends", "begins", e.target.value))}
        />
      </Line>
      <Line label="Sent until">
        <TextField
          type="time"
          className="w-28"
          value={text(sends.ends)}
          onChange={(e) => setDoc(putIn(doc, "sends", "ends", e.target.value))}
        />
      </Line>
      <Line label="by the clock of">
        <Select
          disabled={!sends.begins && !sends.ends}
          value={text(sends.zone) || "UTC"}
          onChange={(e) => setDoc(putIn(doc, "sends", "zone", e.target.value))}
        >
          {zones.map((z) => (
            <option key={z}>{z}</option>
          ))}
        </Select>
      </Line>
    </div>
  );
}

function Line({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="font-semibold">{label}</span>
      {children}
    </label>
  );
}

type CountProps = {
  label: string;
  usual?: string;
  value: unknown;
  set: (count: number | null) => void;
};

function Count({ label, usual, value, set }: CountProps) {
  return (
    <Line label={label}>
      <TextField
        className="w-24"
        inputMode="numeric"
        placeholder={usual}
        value={String(value ?? "")}
        onChange={(e) => set(number(e.target.value))}
      />
    </Line>
  );
}

type ListProps<T> = { label: string; placeholder: string; value: T; set: (value: T) => void };

/** Words in one line; kept as they are written until the field is left. */
function Words({ label, placeholder, value, set }: ListProps<string[]>) {
  const [written, setWritten] = useState(value.join(", "));
  return (
    <Line label={label}>
      <TextField
        className="w-full"
        placeholder={placeholder}
        value={written}
        onChange={(e) => {
          setWritten(e.target.value);
          set(words(e.target.value));
        }}
      />
    </Line>
  );
}

function Lines({ label, placeholder, value, set }: ListProps<Doc>) {
  const [written, setWritten] = useState(linesOf(value));
  return (
    <Line label={label}>
      <textarea
        className="textarea figure min-h-16 w-full"
        placeholder={placeholder}
        spellCheck={false}
        value={written}
        onChange={(e) => {
          setWritten(e.target.value);
          set(linesRead(e.target.value));
        }}
      />
    </Line>
  );
}
