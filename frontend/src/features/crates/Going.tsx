import type { UseMutationResult } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import type { Topic } from "../../api/keys";
import { useProgress } from "../../api/live";
import { Button } from "../../ui/Button";
import { Notice } from "../../ui/Notice";
import { Problem } from "../../ui/states";

type Progress = Schemas["Progress"];

/** What a worker finds out for a person, while it waits or goes on; it can be stopped. */
export function Going({
  topic,
  found,
  working,
  label,
  said,
  stop,
}: {
  topic: Topic;
  found: { id: number | null; state: string; progress: Progress | null };
  working: string;
  label: string;
  said: (progress: Progress) => string;
  stop: UseMutationResult<unknown, Error, void>;
}) {
  const known = found.state === working ? found.progress : null;
  const progress = useProgress(topic, found.id ?? undefined, known);
  return (
    <>
      <progress
        className="progress progress-secondary w-48"
        max={1}
        value={progress?.share ?? 0}
        aria-label={label}
      />
      <span className="figure" role="status">
        {found.state === "waiting" && "waits for a worker"}
        {found.state === "stopping" && "stopping"}
        {found.state === working && (progress ? said(progress) : "starting")}
      </span>
      {found.state !== "stopping" && (
        <Button disabled={stop.isPending} onClick={() => stop.mutate()}>
          Stop
        </Button>
      )}
      {stop.isError && <Problem error={stop.error} />}
    </>
  );
}

type Trouble = Schemas["ErrorOut"];

/** Why nothing can be found out, or why it came to nothing; nothing where neither is so. */
export function Troubles({
  found,
  failed,
}: {
  found: { state: string; error: Trouble | null; hindrance: Trouble | null };
  /** What is said before the cause of one that failed. */
  failed: string;
}) {
  const { state, error, hindrance } = found;
  return (
    <>
      {hindrance && (
        <Notice tone="warning" role="status">
          <b>{hindrance.what}</b> {hindrance.way_out}
        </Notice>
      )}
      {state === "failed" && error && (
        <Notice tone="error" role="status">
          {failed}: {error.what} {error.way_out}
        </Notice>
      )}
    </>
  );
}
