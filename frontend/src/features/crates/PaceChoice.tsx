import type { Schemas } from "../../api/client";
import { useChoose, useTryPaces } from "../../api/mutations/crates";
import { usePaces } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Select } from "../../ui/Field";
import { Problem } from "../../ui/states";

const BUSY = ["waiting", "trying"];

/**
 * At which pace the picture is encoded; beside each what a trial on the machine that encodes found:
 * how fast it is, and how near the picture stays. Hardware is offered where it opened.
 */
export function PaceChoice({
  deliverable,
  codec,
  open,
}: {
  deliverable: Schemas["DeliverableOut"];
  codec: string;
  open: boolean;
}) {
  const known = usePaces(open);
  const choose = useChoose(deliverable.id);
  const attempt = useTryPaces();
  const held = String(deliverable.choices.pace ?? "usual");
  const options = deliverable.options.pace ?? [];
  if (!open) return held === "usual" ? null : <span>pace {held}</span>;
  const trial = known.data?.trials.find((t) => t.codec === codec);
  const found = new Map(trial?.paces.map((p) => [p.pace, p]));
  const offered = options.filter(
    (o) => o.value !== "hardware" || held === "hardware" || found.get("hardware")?.speed != null,
  );
  const busy = trial !== undefined && BUSY.includes(trial.state);
  const when = trial ? new Date(trial.at).toLocaleString() : "";
  const rate = (trial?.bit_rate ?? 0) / 1e6;
  const asked = trial?.size
    ? `${trial.frames} frames of ${trial.size} at ${rate} Mb/s on ${trial.host}, ${when}`
    : "Encodes some frames at each pace.";
  return (
    <>
      <label className="flex items-center gap-1">
        pace
        <Select
          value={held}
          onChange={(e) =>
            choose.mutate({
              property: "pace",
              value: e.target.value === "usual" ? null : e.target.value,
            })
          }
        >
          {offered.map((o) => (
            <option key={o.value} value={o.value}>
              {o.label}
              {figures(found.get(o.value), trial?.size)}
            </option>
          ))}
        </Select>
      </label>
      <Button
        tone="ghost"
        title={asked}
        disabled={busy || attempt.isPending}
        onClick={() => attempt.mutate(codec)}
      >
        {busy ? "trying the paces" : trial ? "try the paces again" : "try the paces here"}
      </Button>
      {trial?.error && (
        <p role="status" className="basis-full">
          The trial failed: {trial.error.what} {trial.error.way_out}
        </p>
      )}
      {attempt.isError && <Problem error={attempt.error} />}
      {choose.isError && <Problem error={choose.error} />}
    </>
  );
}

function figures(found: Schemas["PaceOut"] | undefined, size: string | null | undefined) {
  if (found?.speed == null || found.quality == null) return "";
  const speed = found.speed < 10 ? found.speed.toFixed(1) : found.speed.toFixed(0);
  const where = size ? ` at ${size}` : "";
  return `: ${speed} fps${where}, ${found.quality.toFixed(1)} dB`;
}
