import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { useMasters } from "../../api/queries";
import { Select } from "../../ui/Field";

const MOST = 200;
const MASTER = "master ";
type Named = Schemas["OtherMaster"];
type Row = Schemas["MasterOut"];

/** Picks another master of the same production, or one of the values that need none. */
export function OtherMaster({
  of,
  label,
  own,
  held,
  group,
  search,
  chosen,
  open,
  pending,
  fits = () => true,
  take,
  takeOwn,
  children,
}: {
  of: Row;
  label: string;
  own: Schemas["OptionOut"][];
  held: string;
  group: string;
  search: string;
  chosen: Named | null;
  open: boolean;
  pending: boolean;
  fits?: (row: Row) => boolean;
  take: (master: number) => void;
  takeOwn: (value: string) => void;
  children?: ReactNode;
}) {
  const production = of.production ? { production: of.production } : {};
  const found = useMasters({ q: search, limit: MOST, ...production }, open);
  const usual = own.length > 1 ? held : "";
  if (!open)
    return chosen || usual ? (
      <span>
        {label} <b>{chosen ? chosen.name : usual}</b>
      </span>
    ) : null;
  const others = (found.data?.rows ?? []).filter(
    (m) =>
      m.id !== of.id && m.id !== chosen?.id && ["measuring", "ready"].includes(m.state) && fits(m),
  );
  const named: Named[] = chosen ? [chosen, ...others] : others;
  if (own.length < 2 && named.length === 0) return null;
  const more = (found.data?.total ?? 0) - (found.data?.rows.length ?? 0);
  const pick = (value: string) =>
    value.startsWith(MASTER) ? take(Number(value.slice(MASTER.length))) : takeOwn(value);
  return (
    <>
      <label className="flex items-center gap-1">
        {label}
        <Select
          className="max-w-64"
          value={chosen ? MASTER + String(chosen.id) : held}
          disabled={pending}
          onChange={(e) => pick(e.target.value)}
        >
          {own.map((o) => (
            <option key={o.value} value={o.value}>
              {o.label}
            </option>
          ))}
          {named.length > 0 && (
            <optgroup label={group}>
              {named.map((m) => (
                <option key={m.id} value={MASTER + String(m.id)}>
                  {m.name}
                </option>
              ))}
              {more > 0 && <option disabled>and {more} more, which are older</option>}
            </optgroup>
          )}
        </Select>
      </label>
      {children}
    </>
  );
}
