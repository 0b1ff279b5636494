import clsx from "clsx";
import { Plus, X } from "lucide-react";
import { useId } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";

type Property = Schemas["PropertyOut"];
/**
 * What stands in other rows and bears on a control: the codec, and the shape in which the picture
 * is shown.
 */
export type Context = { vocabulary: Schemas["Vocabulary"]; codec: string; aspect: string };
type Given = {
  property: Property;
  label: string;
  value: string;
  set: (value: string) => void;
  context: Context;
};

const common = (a: number, b: number): number => (b ? common(b, a % b) : a);

/**
 * A small frame in the shape that a size has: as it is shown where that is asked, or else with
 * square pixels.
 */
export function Shape({ size, aspect }: { size: string; aspect: string }) {
  const [w, h] = size.split("x").map(Number);
  if (!w || !h) return null;
  const d = common(w, h);
  const stored = w / d > 40 || h / d > 40 ? `${(w / h).toFixed(3)}:1` : `${w / d}:${h / d}`;
  const [across, down] = aspect.split(":").map(Number);
  const shape = across && down ? across / down : w / h;
  const other = across && down && Math.abs(shape - w / h) > 0.001;
  const seen = other ? `, shown as ${aspect}` : `: ${stored} with square pixels`;
  const width = shape >= 1 ? 34 : 34 * shape;
  const height = shape >= 1 ? 34 / shape : 34;
  return (
    <span className="inline-flex items-center gap-1" title={`${w} samples wide, ${h} high${seen}`}>
      <svg width={width} height={height} aria-hidden>
        <rect
          x="0.5"
          y="0.5"
          width={width - 1}
          height={height - 1}
          fill="var(--color-base-300)"
          stroke="currentColor"
        />
      </svg>
      <span className="muted text-xs">{other ? `shown ${aspect}` : stored}</span>
    </span>
  );
}

/** What a bare figure means in the unit that its field shows: 5 in a field of Mb/s is "5 Mb/s". */
function united(value: string, property: Property): string {
  const bare = /^[-+]?[0-9./]+$/.test(value.trim()) && value.trim() !== "0";
  return bare && ["bit_rate", "bit_count", "bytes", "hertz", "seconds"].includes(property.kind)
    ? `${value.trim()} ${property.unit}`
    : value;
}

/**
 * The control that fits a property's values: known rates, sizes, levels; yes or no; words of the
 * trade; figures with their unit.
 */
export function Value({ property, label, value, set, context }: Given) {
  const list = useId();
  if (property.kind === "flag") {
    const now = ["true", "yes"].includes(value)
      ? "yes"
      : ["false", "no"].includes(value)
        ? "no"
        : "";
    return (
      <Select aria-label={label} value={now} onChange={(e) => set(e.target.value)}>
        <option value="" disabled>
          choose
        </option>
        <option>yes</option>
        <option>no</option>
      </Select>
    );
  }
  if (property.kind === "rate") {
    const known = context.vocabulary.rates.some((r) => r.value === value);
    return (
      <span className="inline-flex gap-1">
        <Select
          className="w-40"
          aria-label={`${label}: usual rates`}
          value={known ? value : "other"}
          onChange={(e) => set(e.target.value === "other" ? "" : e.target.value)}
        >
          {context.vocabulary.rates.map((r) => (
            <option key={r.value} value={r.value}>
              {r.said}
            </option>
          ))}
          <option value="other">another</option>
        </Select>
        {!known && (
          <TextField
            className="w-24"
            aria-label={label}
            placeholder="30000/1001"
            value={value}
            onChange={(e) => set(e.target.value)}
          />
        )}
      </span>
    );
  }
  const levels = context.vocabulary.levels.filter((l) => l.codec === context.codec);
  if (property.kind === "level" && levels.length > 0) {
    const held = levels.find((l) => Number(l.name) === Number(value));
    return (
      <span className="inline-flex flex-wrap items-center gap-1">
        <Select aria-label={label} value={held?.name ?? ""} onChange={(e) => set(e.target.value)}>
          <option value="" disabled>
            choose
          </option>
          {levels.map((l) => (
            <option key={l.name} value={l.name}>
              {l.name}
            </option>
          ))}
        </Select>
        {held && <span className="muted text-xs">{held.says}</span>}
      </span>
    );
  }
  if (["text", "name"].includes(property.kind) && property.values.length > 0)
    return <Word property={property} label={label} value={value} set={set} context={context} />;
  const values =
    property.kind === "size" ? context.vocabulary.sizes : property.values.map((v) => v.value);
  return (
    <span className="inline-flex items-center gap-1">
      <input
        className={clsx(
          "field-box",
          property.kind === "text" || property.kind === "name" ? "w-36" : "w-28",
        )}
        aria-label={label}
        list={values.length ? list : undefined}
        value={value}
        placeholder={property.unit ? `in ${property.unit}` : ""}
        onChange={(e) => set(e.target.value)}
        onBlur={() => {
          if (united(value, property) !== value) set(united(value, property));
        }}
      />
      {values.length > 0 && (
        <datalist id={list}>
          {values.map((v) => (
            <option key={v} value={v} />
          ))}
        </datalist>
      )}
      {property.kind === "size" && <Shape size={value} aspect={context.aspect} />}
    </span>
  );
}

/**
 * A word of the trade, picked from those by which files are read; another can be written where the
 * list does not end.
 */
function Word({ property, label, value, set, context }: Given) {
  const profiles =
    property.key === "picture.profile"
      ? context.vocabulary.profiles.find((c) => c.codec === context.codec)?.profiles
      : undefined;
  const usual = property.values.filter((v) => !profiles || profiles.includes(v.value));
  const known = usual.some((v) => v.value === value);
  const held =
    property.key === "picture.profile_level"
      ? context.vocabulary.levels.find((l) => l.codec === "mpeg2video" && l.name === value)
      : undefined;
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      <Select
        className="max-w-52"
        aria-label={label}
        value={known ? value : property.closed ? "" : "other"}
        onChange={(e) => set(e.target.value === "other" ? "" : e.target.value)}
      >
        {property.closed && (
          <option value="" disabled>
            {value ? `${value}?` : "choose"}
          </option>
        )}
        {usual.map((v) => (
          <option key={v.value} value={v.value}>
            {v.label}
          </option>
        ))}
        {!property.closed && <option value="other">another</option>}
      </Select>
      {!known && !property.closed && (
        <TextField
          className="w-36"
          aria-label={`${label}, in other words`}
          value={value}
          onChange={(e) => set(e.target.value)}
        />
      )}
      {held && <span className="muted text-xs">{held.says}</span>}
    </span>
  );
}

/** Several values, one control each. */
export function Values({
  values,
  set,
  ...rest
}: Omit<Given, "value" | "set"> & { values: string[]; set: (values: string[]) => void }) {
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      {values.map((v, n) => (
        <span key={n} className="inline-flex items-center">
          <Value
            {...rest}
            label={`${rest.label}, value ${n + 1}`}
            value={v}
            set={(next) => set(values.map((o, m) => (m === n ? next : o)))}
          />
          {values.length > 1 && (
            <Button
              tone="ghost"
              tool
              aria-label={`take out ${v}`}
              onClick={() => set(values.filter((_, m) => m !== n))}
            >
              <X size={12} />
            </Button>
          )}
        </span>
      ))}
      <Button tool aria-label={`${rest.label}: another value`} onClick={() => set([...values, ""])}>
        <Plus size={12} />
      </Button>
    </span>
  );
}
