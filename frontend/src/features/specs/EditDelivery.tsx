import { Plus, X } from "lucide-react";
import type { Schemas } from "../../api/client";
import type { Delivery as DeliveryPart, Sidecar } from "./document";
import { type Judged, Line, Name, type Part, Wrongs, spare } from "./EditLine";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";

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
          onChange={(e) => put({ case: e.target.value as DeliveryPart["case"] })}
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
              const [kind, form] = e.target.value.split("/") as [Sidecar["kind"], Sidecar["form"]];
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
