import { Plus, X } from "lucide-react";
import { type ReactNode, useState } from "react";
import type { Schemas } from "../../api/client";
import { type Context, Value } from "./controls";
import {
  type Choice,
  type Coding as CodingPart,
  type Delivery as DeliveryPart,
  type Doc,
  spoken,
} from "./document";
import { PropertyChoice } from "./RuleRow";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";

type Part = { doc: Doc; set: (doc: Doc, mark?: string) => void };
type Judged = { wrong: Schemas["Wrong"][] };
function Line({ name, children, hint }: { name: string; children: ReactNode; hint?: string }) {
  return (
    <label className="mb-1 flex flex-wrap items-center gap-2">
      <span className="w-36 shrink-0">{name}</span>
      {children}
      {hint && <span className="muted text-xs">{hint}</span>}
    </label>
  );
}

/** What is wrong with a part of the document, said in that part. */
function Wrongs({ wrong, place }: Judged & { place: string[] }) {
  return wrong
    .filter((w) => place.every((p, n) => w.place[n] === p))
    .map((w) => (
      <p key={w.what} role="alert" className="font-semibold text-error">
        {w.what} {w.way_out}
      </p>
    ));
}

/**
 * A name among others: it is taken when the field is left, and not at all where another has it, for
 * one of the two would be lost.
 */
function Name({
  value,
  others,
  label,
  taken,
  className,
}: {
  value: string;
  others: string[];
  label: string;
  taken: (name: string) => void;
  className: string;
}) {
  const [text, setText] = useState(value);
  const name = text.trim();
  const held = others.includes(name);
  const done = () => {
    if (name && name !== value && !held) taken(name);
    else setText(value);
  };
  return (
    <>
      <input
        className={className}
        aria-label={label}
        aria-invalid={held}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={done}
        onKeyDown={(e) => {
          if (e.key === "Enter") done();
          if (e.key === "Escape") setText(value);
        }}
      />
      {held && (
        <span role="alert" className="ml-2 text-xs font-semibold text-error">
          {name} is there already
        </span>
      )}
    </>
  );
}

export const short = (title: string) =>
  title
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);

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
          onChange={(e) => put({ passes: Number(e.target.value) })}
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
        <Select value={coding.framing ?? "pad"} onChange={(e) => put({ framing: e.target.value })}>
          <option value="pad">add bars</option>
          <option value="crop">cut the edges</option>
          <option value="stretch">stretch</option>
        </Select>
      </Line>
      <Line name="Master without sound">
        <Select
          value={coding.without_sound ?? "silent track"}
          onChange={(e) => put({ without_sound: e.target.value })}
        >
          <option>silent track</option>
          <option>no track</option>
        </Select>
      </Line>
    </section>
  );
}

export function Delivery({
  doc,
  set,
  vocabulary,
  wrong,
}: Part & Judged & { vocabulary: Schemas["Vocabulary"] }) {
  const delivery = doc.delivery ?? {};
  const put = (part: DeliveryPart, mark = "") =>
    set({ ...doc, delivery: { ...delivery, ...part } }, mark || `delivery ${Object.keys(part)[0]}`);
  const fields = Object.entries(delivery.fields ?? {});
  const beside = delivery.sidecars ?? [];
  const names = vocabulary.name_fields.map((f) => `{${f}}`).join(" ");
  return (
    <section aria-label="Name and delivery">
      <h2 className="mb-1 border-b-2 border-accent font-semibold">name and delivery</h2>
      <Wrongs wrong={wrong} place={["delivery"]} />
      <Line name="File name" hint={`fields: ${names}; [in brackets] may be left out`}>
        <TextField
          className="figure w-72"
          value={delivery.name ?? "{master}_{recipient}"}
          onChange={(e) => put({ name: e.target.value })}
        />
      </Line>
      <Line name="The recipient asks so">
        <Select
          value={delivery.asked ?? ""}
          onChange={(e) => put({ asked: (e.target.value || null) as DeliveryPart["asked"] })}
        >
          <option value="">no, our habit</option>
          <option>must</option>
          <option>should</option>
        </Select>
      </Line>
      <Line name="Characters">
        <TextField
          className="figure w-44"
          value={delivery.characters ?? "A-Z a-z 0-9 _ - ."}
          onChange={(e) => put({ characters: e.target.value })}
        />
        <Select
          aria-label="case of the name"
          value={delivery.case ?? "any"}
          onChange={(e) => put({ case: e.target.value })}
        >
          <option value="any">any case</option>
          <option value="lower">lower case</option>
          <option value="upper">upper case</option>
        </Select>
      </Line>
      <Line name="Longest">
        <TextField
          className="w-16"
          inputMode="numeric"
          value={delivery.longest ?? 200}
          onChange={(e) => put({ longest: Number(e.target.value.replace(/\D/g, "")) || 0 })}
        />
      </Line>
      {fields.map(([key, field], n) => (
        <div key={n} className="mb-1 flex flex-wrap items-center gap-1">
          free field{" "}
          <Name
            key={key}
            className="field-box figure w-20"
            label={`free field ${n + 1}: name`}
            value={key}
            others={fields.map(([k]) => k).filter((k) => k !== key)}
            taken={(name) =>
              put({
                fields: Object.fromEntries(
                  fields.map(([k, f], m) => (m === n ? [name, f] : [k, f])),
                ),
              })
            }
          />
          fits{" "}
          <TextField
            className="figure w-36"
            aria-label={`${key}: fits`}
            value={field.matches}
            onChange={(e) =>
              put(
                { fields: { ...delivery.fields, [key]: { ...field, matches: e.target.value } } },
                `field rule ${n}`,
              )
            }
          />
          <TextField
            className="grow"
            aria-label={`${key}: note`}
            placeholder="note"
            value={field.note ?? ""}
            onChange={(e) =>
              put(
                { fields: { ...delivery.fields, [key]: { ...field, note: e.target.value } } },
                `field note ${n}`,
              )
            }
          />
          <Button
            tone="ghost"
            tool
            aria-label={`take out the field ${key}`}
            onClick={() => put({ fields: Object.fromEntries(fields.filter((_, m) => m !== n)) })}
          >
            <X size={12} />
          </Button>
        </div>
      ))}
      {beside.map((one, n) => (
        <div key={n} className="mb-1 flex flex-wrap items-center gap-1">
          beside{" "}
          <Select
            aria-label={`beside the files ${n + 1}`}
            value={`${one.kind}/${one.form}`}
            onChange={(e) => {
              const [kind = "", form = ""] = e.target.value.split("/");
              put({ sidecars: beside.map((s, m) => (m === n ? { ...s, kind, form } : s)) });
            }}
          >
            {Object.entries(vocabulary.sidecars).flatMap(([kind, forms]) =>
              forms.map((f) => (
                <option key={`${kind}/${f}`} value={`${kind}/${f}`}>
                  {kind} as {f}
                </option>
              )),
            )}
          </Select>
          <TextField
            className="grow"
            aria-label={`beside the files ${n + 1}: note`}
            placeholder="note"
            value={one.note ?? ""}
            onChange={(e) =>
              put(
                { sidecars: beside.map((s, m) => (m === n ? { ...s, note: e.target.value } : s)) },
                `beside ${n}`,
              )
            }
          />
          <Button
            tone="ghost"
            tool
            aria-label={`take out ${one.kind}`}
            onClick={() => put({ sidecars: beside.filter((_, m) => m !== n) })}
          >
            <X size={12} />
          </Button>
        </div>
      ))}
      <p className="mb-1 flex gap-1">
        <Button
          onClick={() =>
            put({
              fields: { ...delivery.fields, [spare("field", fields)]: { matches: "[a-z0-9]+" } },
            })
          }
        >
          <Plus size={12} /> free field
        </Button>
        <Button onClick={() => put({ sidecars: [...beside, { kind: "checksums", form: "md5" }] })}>
          <Plus size={12} /> beside the files
        </Button>
      </p>
      <Line name="Carrier">
        <TextField
          className="w-32"
          placeholder="inbox"
          value={delivery.carrier ?? ""}
          onChange={(e) => put({ carrier: e.target.value })}
        />
      </Line>
      <Line name="Address">
        <TextField
          className="grow"
          value={delivery.address ?? ""}
          onChange={(e) => put({ address: e.target.value })}
        />
      </Line>
    </section>
  );
}

/** A name that none of those has. */
const spare = (stem: string, held: [string, unknown][]) => {
  let n = held.length + 1;
  const name = () => `${stem}${n}`;
  while (held.some(([k]) => k === name())) n += 1;
  return name();
};

/**
 * What this house prefers inside the room: the usual choices, and named sets for one kind of
 * material.
 */
export function HouseChoices({ doc, set, context, wrong }: Part & Judged & { context: Context }) {
  const sets = Object.entries(doc.house_sets ?? {});
  const rename = (n: number, name: string) =>
    set({
      ...doc,
      house_sets: Object.fromEntries(sets.map(([k, s], m) => (m === n ? [name, s] : [k, s]))),
    });
  return (
    <section aria-label="House choices" className="my-4">
      <h2 className="border-b-2 border-accent font-semibold">
        house choices <span className="muted font-normal">taken where the spec leaves room</span>
      </h2>
      <div className="grid gap-4 lg:grid-cols-2">
        <Chosen
          name="the usual"
          choices={doc.house ?? {}}
          context={context}
          wrong={wrong}
          place={["house"]}
          change={(house) => set({ ...doc, house }, "house")}
        />
        {sets.map(([name, one], n) => (
          <div key={n}>
            <p className="mt-1">
              <Name
                key={name}
                className="field-box font-semibold"
                label={`name of house set ${n + 1}`}
                value={name}
                others={sets.map(([k]) => k).filter((k) => k !== name)}
                taken={(next) => rename(n, next)}
              />
              <TextField
                className="ml-1 w-56"
                aria-label={`${name}: for what`}
                placeholder="for what"
                value={one.note ?? ""}
                onChange={(e) =>
                  set(
                    {
                      ...doc,
                      house_sets: { ...doc.house_sets, [name]: { ...one, note: e.target.value } },
                    },
                    `house note ${n}`,
                  )
                }
              />
              <Button
                tone="ghost"
                tool
                aria-label={`take out the set ${name}`}
                onClick={() =>
                  set({ ...doc, house_sets: Object.fromEntries(sets.filter((_, m) => m !== n)) })
                }
              >
                <X size={12} />
              </Button>
            </p>
            <Chosen
              name={name}
              choices={one.choices}
              context={context}
              wrong={wrong}
              place={["house_sets", name]}
              change={(choices) =>
                set(
                  { ...doc, house_sets: { ...doc.house_sets, [name]: { ...one, choices } } },
                  `house ${n}`,
                )
              }
            />
          </div>
        ))}
      </div>
      <Button
        className="mt-1"
        onClick={() =>
          set({
            ...doc,
            house_sets: {
              ...doc.house_sets,
              [spare("material ", sets)]: { choices: { "picture.bit_rate": { value: "" } } },
            },
          })
        }
      >
        <Plus size={12} /> a set for one kind of material
      </Button>
    </section>
  );
}

function Chosen({
  name,
  choices,
  context,
  change,
  wrong,
  place,
}: Judged & {
  place: string[];
  name: string;
  choices: Record<string, Choice>;
  context: Context;
  change: (choices: Record<string, Choice>) => void;
}) {
  return (
    <div>
      {Object.entries(choices).map(([key, choice]) => {
        const property = context.vocabulary.properties.find((p) => p.key === key);
        return property ? (
          <div key={key} className="mt-1 flex flex-wrap items-center gap-1">
            <span>
              {name}: {spoken(property)}
            </span>
            <Value
              property={property}
              label={`${name}: ${spoken(property)}`}
              value={String(choice.value)}
              context={context}
              set={(value) => change({ ...choices, [key]: { ...choice, value } })}
            />
            <TextField
              className="grow"
              aria-label={`${name}: ${property.label}: why`}
              placeholder="why"
              value={choice.note ?? ""}
              onChange={(e) => change({ ...choices, [key]: { ...choice, note: e.target.value } })}
            />
            <Button
              tone="ghost"
              tool
              aria-label={`${name}: take out ${property.label}`}
              onClick={() =>
                change(Object.fromEntries(Object.entries(choices).filter(([k]) => k !== key)))
              }
            >
              <X size={12} />
            </Button>
            <div className="basis-full empty:hidden">
              <Wrongs wrong={wrong} place={[...place, key]} />
            </div>
          </div>
        ) : null;
      })}
      <div className="mt-1">
        <PropertyChoice
          label={`${name}: add a choice`}
          context={context}
          first="add a choice"
          value=""
          held={Object.keys(choices)}
          set={(key) => change({ ...choices, [key]: { value: "" } })}
        />
      </div>
    </div>
  );
}
