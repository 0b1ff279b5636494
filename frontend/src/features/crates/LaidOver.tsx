import type { Schemas } from "../../api/client";
import { useChoose, useLayOver } from "../../api/mutations/crates";
import { Problem } from "../../ui/states";
import { OtherMaster } from "./OtherMaster";

/** What transparency is laid over that the file does not carry: a plain one, or a picture. */
export function LaidOver({
  deliverable,
  open,
}: {
  deliverable: Schemas["DeliverableOut"];
  open: boolean;
}) {
  const choose = useChoose(deliverable.id);
  const lay = useLayOver(deliverable.id);
  const plain = (deliverable.options.background ?? []).filter((o) => o.value !== "still");
  const failed = choose.error ?? lay.error;
  if (!("background" in deliverable.choices)) return null;
  return (
    <OtherMaster
      of={deliverable.master}
      label="transparency laid over"
      own={plain}
      held={String(deliverable.choices.background)}
      group="the first picture of"
      search=""
      chosen={deliverable.under}
      open={open}
      pending={choose.isPending || lay.isPending}
      fits={(row) => row.has_picture}
      take={(master) => {
        choose.reset();
        lay.mutate(master);
      }}
      takeOwn={(value) => {
        lay.reset();
        choose.mutate({ property: "background", value });
      }}
    >
      {failed && <Problem error={failed} />}
    </OtherMaster>
  );
}
