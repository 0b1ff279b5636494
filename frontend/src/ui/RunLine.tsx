import { type Schemas } from "../api/client";
import { useProgress } from "../api/live";
import { span } from "./format";
import { NONE } from "./progress";
import { Problem } from "./states";
import { Button } from "./Button";
import { useStopRun } from "../api/mutations/crates";

/** A run as it moves: stage, frame, speed, elapsed, remaining; and the way to stop it. */
export function RunLine({ run }: { run: Schemas["RunOut"] }) {
  const progress = useProgress(
    "run",
    run.id,
    run.state === "running" ? (run.progress ?? NONE) : null,
  );
  const stop = useStopRun();
  if (!["queued", "running", "stopping"].includes(run.state)) return null;
  return (
    <div className="flex flex-wrap items-center gap-x-3">
      <progress
        className="progress progress-secondary w-48"
        max={1}
        value={progress?.share ?? 0}
        aria-label="share of this stage done"
      />
      <span className="figure">
        {run.state === "queued" && "waits for a worker"}
        {run.state === "stopping" && "stopping"}
        {run.state === "running" && progress && (
          <>
            {progress.stage}
            {progress.passes > 1 && progress.stage === "encode"
              ? ` pass ${progress.pass}/${progress.passes}`
              : ""}
            , frame {progress.frame}
            {progress.frames ? `/${progress.frames}` : ""}, {progress.speed.toFixed(2)}x,{" "}
            {span(progress.elapsed)} elapsed
            {progress.remaining != null ? `, about ${span(progress.remaining)} remaining` : ""}
            {beside(progress.together, progress.workers)}
          </>
        )}
        {run.starts > 1 && `, taken up again (start ${run.starts})`}
      </span>
      {run.state !== "stopping" && (
        <Button onClick={() => stop.mutate(run.id)} disabled={stop.isPending}>
          Stop
        </Button>
      )}
      {stop.isError && <Problem error={stop.error} />}
    </div>
  );
}

/** Say how many others are made from the same reading of the master, or how many make it. */
export function beside(together: number, workers = 1): string {
  if (workers > 1) return `, by ${workers} workers`;
  if (together < 2) return "";
  return together === 2
    ? ", and one other from the same reading"
    : `, and ${together - 1} others from the same reading`;
}
