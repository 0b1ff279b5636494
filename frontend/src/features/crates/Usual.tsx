import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useKeepUsual } from "../../api/mutations/recipients";
import { useZones } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";
import { Problem } from "../../ui/states";

type Recipient = Schemas["RecipientPage"];
type Rule = Schemas["DueRule"];
const here = () => Intl.DateTimeFormat().resolvedOptions().timeZone;

/** A rule by which crates are due, in words. */
export function ruleSaid(rule: Rule): string {
  const kind = rule.working ? "working day" : "day";
  const when =
    rule.days === 0
      ? "the same day"
      : rule.days === 1
        ? `the next ${kind}`
        : `${rule.days} ${kind}s later`;
  return `${when} at ${rule.at} (${rule.zone})`;
}

/** What is usual for a recipient: said, kept and forgotten. */
export function Usual({
  recipient,
  spec,
  sets,
}: {
  recipient: Recipient;
  /** The spec that is chosen now, and its sets of house choices. */
  spec: string;
  sets: string[];
}) {
  const kept = recipient.usual;
  const zones = useZones().data ?? [];
  const keep = useKeepUsual(recipient.key);
  const [rule, setRule] = useState<Rule>(
    kept?.due ?? { days: 1, working: true, at: "16:00", zone: here() },
  );
  const [house, setHouse] = useState(kept?.house ?? "");
  return (
    <details className="border-l-4 border-base-300 pl-2">
      <summary className="cursor-pointer">
        {kept ? (
          <>
            Usual for {recipient.name}: due {ruleSaid(kept.due)}
            {kept.house && `, house choices ${kept.house}`}
          </>
        ) : (
          <>Nothing is kept as usual for {recipient.name}</>
        )}
      </summary>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <label>
          due after{" "}
          <TextField
            className="w-12"
            inputMode="numeric"
            aria-label="due after so many days"
            value={String(rule.days)}
            onChange={(e) => setRule({ ...rule, days: Number(e.target.value.replace(/\D/g, "")) })}
          />
        </label>
        <Select
          aria-label="which days count"
          value={rule.working ? "working days" : "days"}
          onChange={(e) => setRule({ ...rule, working: e.target.value !== "days" })}
        >
          <option>working days</option>
          <option>days</option>
        </Select>
        <label>
          at{" "}
          <TextField
            type="time"
            className="w-28"
            aria-label="at which time"
            value={rule.at}
            onChange={(e) => setRule({ ...rule, at: e.target.value })}
          />
        </label>
        <Select
          aria-label="in which time zone"
          className="w-44"
          value={rule.zone}
          onChange={(e) => setRule({ ...rule, zone: e.target.value })}
        >
          {[...new Set([rule.zone, ...zones])].map((zone) => (
            <option key={zone} value={zone}>
              {zone}
            </option>
          ))}
        </Select>
        {sets.length > 0 && (
          <Select
            aria-label="house choices"
            value={house}
            onChange={(e) => setHouse(e.target.value)}
          >
            <option value="">the usual house choices</option>
            {sets.map((set) => (
              <option key={set}>{set}</option>
            ))}
          </Select>
        )}
        <Button
          className="min-h-7"
          disabled={!spec || keep.isPending}
          onClick={() => keep.mutate({ spec, house: sets.includes(house) ? house : "", due: rule })}
        >
          Keep as usual, with this spec
        </Button>
        {kept && (
          <Button tone="ghost" className="min-h-7" onClick={() => keep.mutate(null)}>
            Forget it
          </Button>
        )}
      </div>
      {keep.isError && <Problem error={keep.error} />}
    </details>
  );
}
