import type { Schemas } from "../../api/client";
import { useProgress } from "../../api/live";
import { beside } from "../../ui/RunLine";
import { span } from "../../ui/format";

type Deliverable = Schemas["DeliverableOut"];

/** What an item is doing now, in a line: it waits, runs, is done, or why it cannot. */
export function ItemState({ deliverable }: { deliverable: Deliverable }) {
  const { run, master } = deliverable;
  const running = run?.state === "running";
  const mine = useProgress("run", run?.id, running ? run.progress : null);
  const theirs = useProgress(
    "master",
    master.id,
    master.state === "measuring" ? master.progress : null,
  );
  const share = (s: number) => `${Math.round(100 * s)} %`;
  let said = deliverable.doing;
  if (running && mine) {
    const pass =
      mine.passes > 1 && mine.stage === "encode" ? ` pass ${mine.pass} of ${mine.passes}` : "";
    const left = mine.remaining != null ? `, about ${span(mine.remaining)} left` : "";
    const others = beside(mine.together, mine.workers);
    said = `${mine.stage}${pass}, ${share(mine.share)}${left}${others}`;
  } else if (said.startsWith("waits") && theirs) {
    said = `${said} (${share(theirs.share)})`;
  }
  return (
    <span className="block max-w-72 text-xs" data-doing={deliverable.id}>
      {said}
    </span>
  );
}
