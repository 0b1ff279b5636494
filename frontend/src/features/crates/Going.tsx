import type { UseMutationResult } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import type { Topic } from "../../api/keys";
import { useProgress } from "../../api/live";
import { Button } from "../../ui/Button";
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
