import type { Schemas } from "../../api/client";
import { useTakeSound } from "../../api/mutations/crates";
import { Problem } from "../../ui/states";
import { OtherMaster } from "./OtherMaster";

const OWN = [{ value: "", label: "the master itself" }];

/** Whose sound goes with the picture: the master's own, or that of another of its production. */
export function SoundFrom({
  deliverable,
  open,
}: {
  deliverable: Schemas["DeliverableOut"];
  open: boolean;
}) {
  const take = useTakeSound(deliverable.id);
  if (!deliverable.master.has_picture) return null;
  return (
    <OtherMaster
      of={deliverable.master}
      label="sound from"
      own={OWN}
      held=""
      group="another master"
      search="-mute"
      chosen={deliverable.sound}
      open={open}
      pending={take.isPending}
      take={take.mutate}
      takeOwn={() => take.mutate(null)}
    >
      {take.isError && <Problem error={take.error} />}
      {take.data && take.data.taken_back.length > 0 && (
        <p role="status" className="basis-full">
          Taken back, for it does not fit this sound: {take.data.taken_back.join("; ")}.
        </p>
      )}
    </OtherMaster>
  );
}
