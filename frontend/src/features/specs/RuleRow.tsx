import { X } from "lucide-react";
import type { Schemas } from "../../api/client";
import { type Context, Value, Values } from "./controls";
import {
  type Ask,
  type Operator,
  operatorOf,
  OPERATORS,
  property as base,
  type Row,
  type Rule,
} from "./document";
import { Contradictions } from "./Reading";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";

const text = (v: unknown) => (v === undefined || v === null ? "" : String(v));

/** A rule by itself: operator, values, tolerance. */
export function RuleFields({
  of,
  change,
  context,
  name,
}: {
  of: Ask;
  change: (rule: Rule) => void;
  context: Context;
  name: string;
}) {
  const property = context.vocabulary.properties.find((p) => p.key === base(of.property));
  if (!property) return <span>{of.property}</span>;
  const operator = operatorOf(of.rule);
  const label = `${name} ${OPERATORS[operator]}`;
  const { tolerance, words } = of.rule;
  const kept =
    tolerance !== undefined &&
    tolerance !== null &&
    !["present", "same_as", "matches"].includes(operator)
      ? { tolerance }
      : {};
  const put = (value: unknown) =>
    change({
      [operator]: value,
      ...kept,
      ...(operator === "matches" && words ? { words } : {}),
      ...(operator === "same_as" && tolerance ? { tolerance } : {}),
    });
  const to = (next: Operator) => {
    const held = of.rule[operator];
    const first = Array.isArray(held)
      ? text(held[0])
      : ["present", "same_as"].includes(operator)
        ? ""
        : text(held);
    const start: Record<string, unknown> = {
      one_of: [first],
      between: [first, first],
      present: true,
      same_as: "master",
      matches: first,
    };
    change({ [next]: start[next] ?? first });
  };
  const held = of.rule[operator];
  const pair = Array.isArray(held) ? held.map(text) : [text(held)];
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      <Select
        aria-label={`${name}: how`}
        value={operator}
        onChange={(e) => to(e.target.value as Operator)}
      >
        {property.operators.map((o) => (
          <option key={o} value={o}>
            {OPERATORS[o as Operator]}
          </option>
        ))}
      </Select>
      {operator === "one_of" && (
        <Values
          property={property}
          label={label}
          values={pair}
          set={(v) => put(v)}
          context={context}
        />
      )}
      {operator === "between" && (
        <>
          <Value
            property={property}
            label={`${label}, least`}
            value={pair[0] ?? ""}
            set={(v) => put([v, pair[1] ?? ""])}
            context={context}
          />{" "}
          and
          <Value
            property={property}
            label={`${label}, most`}
            value={pair[1] ?? ""}
            set={(v) => put([pair[0] ?? "", v])}
            context={context}
          />
        </>
      )}
      {operator === "present" && (
        <Select
          aria-label={label}
          value={held ? "yes" : "no"}
          onChange={(e) => put(e.target.value === "yes")}
        >
          <option>yes</option>
          <option>no</option>
        </Select>
      )}
      {operator === "same_as" && (
        <Select aria-label={label} value={text(held)} onChange={(e) => put(e.target.value)}>
          <option value="master">the master's</option>
          <option value="crate">the crate's other items</option>
        </Select>
      )}
      {operator === "matches" && (
        <>
          <TextField
            className="figure w-44"
            aria-label={label}
            value={text(held)}
            onChange={(e) => put(e.target.value)}
          />
          <TextField
            className="w-36"
            aria-label={`${name}: the pattern in words`}
            placeholder="in words"
            value={text(words)}
            onChange={(e) =>
              change({
                matches: of.rule.matches,
                ...(e.target.value ? { words: e.target.value } : {}),
              })
            }
          />
        </>
      )}
      {["is", "at_least", "at_most"].includes(operator) && (
        <Value
          property={property}
          label={label}
          value={text(held)}
          set={(v) => put(v)}
          context={context}
        />
      )}
      {!["present", "matches"].includes(operator) &&
        !["flag", "text", "name", "size", "rate", "ratio", "level", "bits"].includes(
          property.kind,
        ) && (
          <TextField
            className="w-16"
            aria-label={`${name}: tolerance`}
            placeholder="± none"
            value={text(tolerance)}
            onChange={(e) =>
              change({ [operator]: held, ...(e.target.value ? { tolerance: e.target.value } : {}) })
            }
          />
        )}
    </span>
  );
}

type Shown = { row: Row; wrong?: string; sentence?: string; found: Schemas["ContradictionOut"][] };
type ItemState = {
  change: (row: Row) => void;
  remove: () => void;
  repair: (changes: Schemas["RepairOut"]["changes"]) => void;
};

/** One requirement being written, with what is wrong with it in its place. */
export function RuleRow({
  row,
  wrong,
  sentence,
  found,
  context,
  change,
  remove,
  repair,
}: Shown & ItemState & { context: Context }) {
  const property = context.vocabulary.properties.find((p) => p.key === base(row.property));
  const track = row.property.split("@")[1] ?? "";
  const name = `${property?.label ?? row.property}${track ? `, track ${track}` : ""}`;
  return (
    <tr data-property={row.property} data-wrong={Boolean(wrong) || found.length > 0}>
      <td className="w-[17%]" title={property?.meaning}>
        {property?.label ?? row.property}
        {property?.group === "sound" && property.key !== "sound.tracks" && (
          <Select
            className="ml-1"
            aria-label={`${name}: of which track`}
            value={track}
            onChange={(e) =>
              change({
                ...row,
                property: base(row.property) + (e.target.value && `@${e.target.value}`),
              })
            }
          >
            <option value="">all tracks</option>
            {[1, 2, 3, 4, 5, 6, 7, 8].map((n) => (
              <option key={n} value={n}>
                track {n}
              </option>
            ))}
          </Select>
        )}
      </td>
      <td>
        <RuleFields
          of={row}
          change={(rule) => change({ ...row, rule })}
          context={context}
          name={name}
        />
        {row.when && (
          <Where
            when={row.when}
            name={name}
            context={context}
            change={(when) => change({ ...row, when })}
          />
        )}
        {wrong ? (
          <p role="alert" className="font-semibold text-error">
            {wrong}
          </p>
        ) : (
          sentence && <p className="muted">{sentence}</p>
        )}
        {found.length > 0 && <Contradictions found={found} take={repair} />}
      </td>
      <td className="w-20">
        <Select
          aria-label={`${name}: severity`}
          value={row.severity ?? "must"}
          onChange={(e) => change({ ...row, severity: e.target.value as Row["severity"] })}
        >
          <option>must</option>
          <option>should</option>
        </Select>
      </td>
      <td className="w-[13%]">
        <TextField
          className="w-full"
          aria-label={`${name}: source`}
          placeholder="clause"
          value={row.source ?? ""}
          onChange={(e) => change({ ...row, source: e.target.value })}
        />
      </td>
      <td className="w-[15%]">
        <TextField
          className="w-full"
          aria-label={`${name}: note`}
          placeholder="note"
          value={row.note ?? ""}
          onChange={(e) => change({ ...row, note: e.target.value })}
        />
      </td>
      <td className="w-20 whitespace-nowrap">
        {!row.when && (
          <Button
            tool
            onClick={() =>
              change({ ...row, when: { property: "sound.layout", rule: { is: "5.1" } } })
            }
          >
            where
          </Button>
        )}
        <Button tone="ghost" tool aria-label={`take out ${name}`} onClick={remove}>
          <X size={13} />
        </Button>
      </td>
    </tr>
  );
}

/** The condition under which a requirement counts. */
function Where({
  when,
  name,
  context,
  change,
}: {
  when: Ask;
  name: string;
  context: Context;
  change: (when: Ask | null) => void;
}) {
  return (
    <span className="mt-0.5 flex flex-wrap items-center gap-1">
      only where
      <PropertyChoice
        label={`${name}: condition on`}
        context={context}
        value={when.property}
        set={(property) => change({ property, rule: { is: "" } })}
      />
      <RuleFields
        of={when}
        change={(rule) => change({ ...when, rule })}
        context={context}
        name={`${name}: condition`}
      />
      <Button tone="ghost" tool aria-label={`${name}: always`} onClick={() => change(null)}>
        <X size={12} />
      </Button>
    </span>
  );
}

/** A property to choose, by group, without those that are held already. */
export function PropertyChoice({
  label,
  context,
  value,
  set,
  group,
  first,
  held = [],
}: {
  label: string;
  context: Context;
  value: string;
  set: (key: string) => void;
  group?: string;
  first?: string;
  held?: string[];
}) {
  const groups = group ? [group] : [...new Set(context.vocabulary.properties.map((p) => p.group))];
  return (
    <Select aria-label={label} value={value} onChange={(e) => set(e.target.value)}>
      {first !== undefined && <option value="">{first}</option>}
      {groups.map((g) => (
        <optgroup key={g} label={g}>
          {context.vocabulary.properties
            .filter((p) => p.group === g && !held.includes(p.key))
            .map((p) => (
              <option key={p.key} value={p.key}>
                {p.label}
              </option>
            ))}
        </optgroup>
      ))}
    </Select>
  );
}
