import { Plus, X } from "lucide-react";
import type { Schemas } from "../../api/client";
import type { Context } from "./controls";
import {
  type Alternative,
  type Doc,
  type Either,
  fresh,
  property as base,
  spoken,
} from "./document";
import { PropertyChoice, RuleFields } from "./RuleRow";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";

/** Choices of alternatives, of which a file meets one. */
export function EitherEditor({
  doc,
  set,
  context,
  wrong,
}: {
  doc: Doc;
  set: (doc: Doc, mark?: string) => void;
  context: Context;
  wrong: Schemas["Wrong"][];
}) {
  const all = doc.either ?? [];
  const put = (either: Either[], mark?: string) => set({ ...doc, either }, mark);
  const one = (n: number, next: Either, mark?: string) =>
    put(
      all.map((e, m) => (m === n ? next : e)),
      mark,
    );
  const add = () =>
    put([
      ...all,
      {
        name: `choice ${all.length + 1}`,
        any: [
          { name: "one way", rules: { "motion.scan": { is: "progressive" } } },
          {
            name: "another way",
            rules: {
              "motion.scan": { is: "interlaced" },
              "motion.field_order": { is: "upper first" },
            },
          },
        ],
      },
    ]);
  return (
    <section aria-label="Alternatives" className="my-4">
      <h2 className="border-b-2 border-accent font-semibold">
        alternatives <span className="muted font-normal">a file meets one of each choice</span>
      </h2>
      {all.map((either, n) => (
        <fieldset key={n} className="my-2 border border-base-300 p-2">
          <legend className="px-1">
            <TextField
              className="font-semibold"
              aria-label={`name of choice ${n + 1}`}
              value={either.name}
              onChange={(e) => one(n, { ...either, name: e.target.value }, `either ${n}`)}
            />
            <Select
              className="mx-1"
              aria-label={`${either.name}: severity`}
              value={either.severity ?? "must"}
              onChange={(e) =>
                one(n, { ...either, severity: e.target.value as Either["severity"] })
              }
            >
              <option>must</option>
              <option>should</option>
            </Select>
            <TextField
              className="w-28"
              aria-label={`${either.name}: source`}
              placeholder="clause"
              value={either.source ?? ""}
              onChange={(e) => one(n, { ...either, source: e.target.value }, `either source ${n}`)}
            />
            <Button
              tone="ghost"
              tool
              aria-label={`take out ${either.name}`}
              onClick={() => put(all.filter((_, m) => m !== n))}
            >
              <X size={13} />
            </Button>
          </legend>
          <div className="grid gap-2 lg:grid-cols-2">
            {either.any.map((way, m) => (
              <Way
                key={m}
                way={way}
                context={context}
                wrong={wrong.filter(
                  (w) => w.place[0] === "either" && w.place[1] === n && w.place[2] === m,
                )}
                change={(next, mark) =>
                  one(
                    n,
                    { ...either, any: either.any.map((a, o) => (o === m ? next : a)) },
                    mark && `${mark} ${n} ${m}`,
                  )
                }
                remove={
                  either.any.length > 2
                    ? () => one(n, { ...either, any: either.any.filter((_, o) => o !== m) })
                    : undefined
                }
              />
            ))}
          </div>
          <Button
            className="mt-1"
            onClick={() =>
              one(n, {
                ...either,
                any: [
                  ...either.any,
                  { name: `way ${either.any.length + 1}`, rules: { "motion.rate": { is: "25" } } },
                ],
              })
            }
          >
            <Plus size={12} /> another way
          </Button>
        </fieldset>
      ))}
      <Button className="mt-1" onClick={add}>
        <Plus size={12} /> a choice of alternatives
      </Button>
    </section>
  );
}

function Way({
  way,
  context,
  wrong,
  change,
  remove,
}: {
  way: Alternative;
  context: Context;
  wrong: Schemas["Wrong"][];
  change: (next: Alternative, mark?: string) => void;
  remove?: () => void;
}) {
  const codec = String(way.rules["picture.codec"]?.is ?? context.codec);
  return (
    <div className="bg-base-200/60 p-2">
      <p>
        <TextField
          className="font-semibold"
          aria-label="name of this way"
          value={way.name}
          onChange={(e) => change({ ...way, name: e.target.value }, "way")}
        />
        {remove && (
          <Button tone="ghost" tool aria-label={`take out ${way.name}`} onClick={remove}>
            <X size={12} />
          </Button>
        )}
      </p>
      {Object.entries(way.rules).map(([key, rule]) => {
        const found = context.vocabulary.properties.find((p) => p.key === base(key));
        const label = found ? spoken(found) : key;
        return (
          <div key={key} className="mt-1">
            <span className="mr-1">{label}</span>
            <RuleFields
              of={{ property: key, rule }}
              name={`${way.name}: ${label}`}
              context={{ ...context, codec }}
              change={(next) => change({ ...way, rules: { ...way.rules, [key]: next } }, key)}
            />
            <Button
              tone="ghost"
              tool
              aria-label={`${way.name}: take out ${label}`}
              onClick={() =>
                change({
                  ...way,
                  rules: Object.fromEntries(Object.entries(way.rules).filter(([k]) => k !== key)),
                })
              }
            >
              <X size={12} />
            </Button>
            {wrong
              .filter((w) => w.place[3] === key)
              .map((w) => (
                <p key={w.what} role="alert" className="font-semibold text-error">
                  {w.what}
                </p>
              ))}
          </div>
        );
      })}
      <div className="mt-1">
        <PropertyChoice
          label={`${way.name}: add a rule`}
          context={context}
          first="add a rule"
          value=""
          held={Object.keys(way.rules)}
          set={(key) =>
            change({ ...way, rules: { ...way.rules, [key]: fresh(key, context.vocabulary).rule } })
          }
        />
      </div>
    </div>
  );
}
