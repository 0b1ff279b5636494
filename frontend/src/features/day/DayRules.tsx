import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useKeepRules } from "../../api/mutations/day";
import { useZones } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Select, TextField } from "../../ui/Field";
import { Problem } from "../../ui/states";

type Rules = Schemas["Rules"];

/** The rules by which all runs wait: all are held, and when the night is. */
export function DayRules({ rules }: { rules: Rules }) {
  const keep = useKeepRules();
  const zones = useZones().data ?? [];
  const [night, setNight] = useState(rules.night);
  const changed = JSON.stringify(night) !== JSON.stringify(rules.night);
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2">
      <Button
        size="sm"
        tone={rules.hold_all ? "primary" : "plain"}
        disabled={keep.isPending}
        onClick={() => keep.mutate({ ...rules, hold_all: !rules.hold_all })}
      >
        {rules.hold_all ? "Release all" : "Hold all"}
      </Button>
      {rules.hold_all && <b>Nothing that waits is begun. What is being made is made to its end.</b>}
      <span className="grow" />
      <span>
        night from{" "}
        <TextField
          type="time"
          className="w-28"
          aria-label="night from"
          value={night.begins}
          onChange={(e) => setNight({ ...night, begins: e.target.value })}
        />{" "}
        to{" "}
        <TextField
          type="time"
          className="w-28"
          aria-label="night to"
          value={night.ends}
          onChange={(e) => setNight({ ...night, ends: e.target.value })}
        />
      </span>
      <Select
        aria-label="time zone of the night"
        className="w-44"
        value={night.zone}
        onChange={(e) => setNight({ ...night, zone: e.target.value })}
      >
        {zones.map((z) => (
          <option key={z}>{z}</option>
        ))}
      </Select>
      {changed && (
        <Button
          size="sm"
          disabled={keep.isPending || !night.begins || !night.ends}
          onClick={() => keep.mutate({ ...rules, night })}
        >
          Keep the night
        </Button>
      )}
      {keep.isError && <Problem error={keep.error} />}
    </div>
  );
}
