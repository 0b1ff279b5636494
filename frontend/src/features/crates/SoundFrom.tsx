import type { Schemas } from "../../api/client";
import { useTakeSound } from "../../api/mutations/crates";
import { useMasters } from "../../api/queries";
import { Select } from "../../ui/Field";
import { Problem } from "../../ui/states";

const MOST = 200;

/** Whose sound goes with the picture: the master's own, or that of another of its production. */
export function SoundFrom({
  deliverable,
  open,
}: {
  deliverable: Schemas["DeliverableOut"];
  open: boolean;
}) {
  const { master, sound } = deliverable;
  const take = useTakeSound(deliverable.id);
  const production = master.production ? { production: master.production } : {};
  const found = useMasters({ q: "-mute", limit: MOST, ...production }, open && master.has_picture);
  if (!master.has_picture) return null;
  if (!open)
    return sound ? (
      <span>
        sound from <b>{sound.name}</b>
      </span>
    ) : null;
  const others = (found.data?.rows ?? []).filter(
    (m) => m.id !== master.id && m.id !== sound?.id && ["measuring", "ready"].includes(m.state),
  );
  if (!sound && others.length === 0) return null;
  const more = (found.data?.total ?? 0) - (found.data?.rows.length ?? 0);
  return (
    <>
      <label className="flex items-center gap-1">
        sound from
        <Select
          className="max-w-64"
          value={sound ? String(sound.id) : ""}
          disabled={take.isPending}
          onChange={(e) => take.mutate(e.target.value ? Number(e.target.value) : null)}
        >
          <option value="">the master itself</option>
          {sound && <option value={sound.id}>{sound.name}</option>}
          {others.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
          {more > 0 && <option disabled>and {more} more, which are older</option>}
        </Select>
      </label>
      {take.isError && <Problem error={take.error} />}
      {take.data && take.data.taken_back.length > 0 && (
        <p role="status" className="basis-full">
          Taken back, for it does not fit this sound: {take.data.taken_back.join("; ")}.
        </p>
      )}
    </>
  );
}
