import { useEffect, useRef } from "react";
import { type Schemas } from "../../api/client";
import { Problem } from "../../ui/states";
import { Button } from "../../ui/Button";
import { Chosen } from "./Chosen";
import { useRestoreCrate } from "../../api/mutations/crates";

export const QUESTIONS = {
  seal: {
    ask: "Seal this crate?",
    what: "Its files, ledger and checksums are frozen and signed; a change needs a new revision.",
    yes: "Yes, seal it",
  },
  "hand over": {
    ask: "Hand this crate over?",
    what: "It is carried to the recipient, and cannot be called back from here.",
    yes: "Yes, hand it over",
  },
  remove: {
    ask: "Remove this crate?",
    what: "It goes from the floor. It can be put back for seven days; masters stay.",
    yes: "Yes, remove it",
  },
};
export type Step = keyof typeof QUESTIONS;

/** Asks once, in the page, before what cannot be taken back by a press. */
export function Question({
  step,
  crate,
  yes,
  no,
}: {
  step: Step;
  crate: Schemas["CratePage"];
  yes: () => void;
  no: () => void;
}) {
  const { ask, what, yes: label } = QUESTIONS[step];
  const answer = useRef<HTMLButtonElement>(null);
  useEffect(() => answer.current?.focus(), []);
  useEffect(() => {
    const leave = (e: KeyboardEvent) => {
      if (e.key === "Escape") no();
    };
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [no]);
  return (
    <div
      role="alertdialog"
      aria-label={ask}
      className="mb-2 flex flex-wrap items-center gap-3 border-2 border-primary bg-base-200 p-2"
    >
      <p className="grow">
        <b>{ask}</b> {step === "hand over" && `To ${crate.recipient.name}. `}
        {what}
      </p>
      {step !== "remove" && <Chosen items={crate.deliverables} />}
      <Button size="sm" tone="primary" ref={answer} onClick={yes}>
        {label}
      </Button>
      <Button size="sm" onClick={no}>
        Leave it
      </Button>
    </div>
  );
}

/** Says that a crate was removed, and puts it back. */
export function PutBack({ id, number }: { id: number; number: number }) {
  const back = useRestoreCrate();
  if (back.isSuccess)
    return (
      <p role="status" className="mb-2 bg-base-200 p-2">
        Crate {number} is back.
      </p>
    );
  return (
    <div
      role="status"
      className="mb-2 flex items-center gap-3 border-l-4 border-warning bg-base-200 p-2"
    >
      <span>Crate {number} was removed. It is kept for seven days.</span>
      <Button size="sm" onClick={() => back.mutate(id)} disabled={back.isPending}>
        Put it back
      </Button>
      {back.isError && <Problem error={back.error} />}
    </div>
  );
}
