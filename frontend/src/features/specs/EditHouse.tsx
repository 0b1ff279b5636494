import { Plus, X } from "lucide-react";
import { type Context, Value } from "./controls";
import { type Choice, spoken } from "./document";
import { type Judged, Name, type Part, Wrongs, spare } from "./EditLine";
import { PropertyChoice } from "./RuleRow";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";

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
      <Beginnings doc={doc} set={set} wrong={wrong} />
    </section>
  );
}

/** What new crates choose at first; the bench writes it here. */
function Beginnings({ doc, set, wrong }: Part & Judged) {
  const begins = Object.entries(doc.begins_with ?? {});
  if (!begins.length) return null;
  return (
    <div role="group" aria-label="New crates begin with" className="mt-1">
      <p>new crates begin with</p>
      {begins.map(([key, value]) => (
        <p key={key} className="mt-1 flex flex-wrap items-center gap-1">
          {key.replace(/^either\./, "")}
          <TextField
            className="w-80"
            aria-label={`new crates begin with: ${key}`}
            value={value}
            onChange={(e) =>
              set(
                { ...doc, begins_with: { ...doc.begins_with, [key]: e.target.value } },
                `begins ${key}`,
              )
            }
          />
          <Button
            tone="ghost"
            tool
            aria-label={`new crates begin without: ${key}`}
            onClick={() =>
              set({ ...doc, begins_with: Object.fromEntries(begins.filter(([k]) => k !== key)) })
            }
          >
            <X size={12} />
          </Button>
        </p>
      ))}
      <Wrongs wrong={wrong} place={["begins_with"]} />
    </div>
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
