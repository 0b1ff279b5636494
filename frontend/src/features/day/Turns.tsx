import clsx from "clsx";
import { useState } from "react";
import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useStopRun } from "../../api/mutations/crates";
import { type Turn, useChangeTurns, useMoveRuns } from "../../api/mutations/day";
import { useProgress } from "../../api/live";
import { Button } from "../../ui/Button";
import { Select } from "../../ui/Field";
import { NONE } from "../../ui/progress";
import { Table } from "../../ui/Table";
import { clock, span } from "../../ui/format";
import { useKeys } from "../../ui/keys";
import { Empty, Problem } from "../../ui/states";

type Run = Schemas["RunOfTheDay"];
const PRIORITIES = { "1": "first", "0": "as usual", "-1": "last" };
const COLUMNS = ["turn", "item", "codec", "made", "due", "priority", "waits", "stop"];

/** The runs that go on and those that wait, in their order; dragged, or moved by keys. */
export function Turns({ runs, holdAll }: { runs: Run[]; holdAll: boolean }) {
  const [at, setAt] = useState<number>();
  const [dragged, setDragged] = useState<number>();
  const [over, setOver] = useState<number>();
  const move = useMoveRuns();
  const change = useChangeTurns();
  const waiting = runs.filter((r) => r.state === "queued");
  const here = waiting.findIndex((r) => r.id === at);
  const mine = waiting[here];
  const before = (id: number, other: number | null) => move.mutate({ runs: [id], before: other });
  const go = (by: number) => {
    const next = waiting[Math.max(0, Math.min(waiting.length - 1, here + by))];
    if (next) setAt(next.id);
  };
  const up = () => {
    const above = waiting[here - 1];
    if (mine && above) before(mine.id, above.id);
  };
  const down = () => {
    if (mine && here < waiting.length - 1) before(mine.id, waiting[here + 2]?.id ?? null);
  };
  const first = () => {
    const top = waiting[0];
    if (mine && top && top !== mine) before(mine.id, top.id);
  };
  const set = (run: Run, values: Turn) => change.mutate({ runs: [run.id], ...values });
  useKeys([
    { key: "ArrowDown", does: "next run that waits", run: () => go(1) },
    { key: "ArrowUp", does: "run before", run: () => go(-1) },
    { key: "e", does: "begin it earlier by one", run: up },
    { key: "l", does: "begin it later by one", run: down },
    { key: "f", does: "begin it first of all", run: first },
    {
      key: "h",
      does: "hold it, or release it",
      run: () => mine && set(mine, { held: !mine.held }),
    },
    {
      key: "n",
      does: "leave it for the night, or not",
      run: () => mine && set(mine, { night: !mine.night }),
    },
  ]);
  if (!runs.length)
    return <Empty title="Nothing runs and nothing waits">Runs you start stand here.</Empty>;
  return (
    <>
      {move.isError && <Problem error={move.error} />}
      {change.isError && <Problem error={change.error} />}
      <Table label="Runs in their order" columns={COLUMNS}>
        <tbody>
          {runs.map((r, n) => (
            <tr
              key={r.id}
              draggable={r.state === "queued"}
              aria-current={r.id === at ? "true" : undefined}
              className={clsx(
                r.id === at && "bg-base-300",
                r.state === "queued" && "cursor-grab",
                over === r.id && dragged !== undefined && "border-t-4 border-accent",
              )}
              onClick={() => r.state === "queued" && setAt(r.id)}
              onDragStart={() => setDragged(r.id)}
              onDragEnd={() => {
                setDragged(undefined);
                setOver(undefined);
              }}
              onDragOver={(e) => {
                if (r.state !== "queued" || dragged === undefined) return;
                e.preventDefault();
                setOver(r.id);
              }}
              onDrop={(e) => {
                e.preventDefault();
                if (dragged !== undefined && dragged !== r.id) before(dragged, r.id);
                setOver(undefined);
              }}
            >
              <td className="figure w-10">{n + 1}</td>
              <Row run={r} holdAll={holdAll} set={(values) => set(r, values)} />
            </tr>
          ))}
        </tbody>
      </Table>
    </>
  );
}

function Row({ run, holdAll, set }: { run: Run; holdAll: boolean; set: (values: Turn) => void }) {
  const stop = useStopRun();
  const spare = (new Date(run.due_at).getTime() - new Date(run.ends).getTime()) / 1000;
  const waits = run.state === "queued";
  return (
    <>
      <td>
        <b className="break-all">{run.item}</b>
        <div className="muted">
          <Link className="hover:underline" to={`/crates/${run.crate}`}>
            <span className="font-stencil">{run.number}</span> {run.title}
          </Link>
        </div>
      </td>
      <td>{run.codec || "copied"}</td>
      <td>{waits ? <Foretold run={run} holdAll={holdAll} /> : <Going run={run} />}</td>
      <td>
        <span className="figure">{clock(run.due_at)}</span>
        <div className={spare < 0 ? "font-semibold text-error" : "muted"}>
          {span(spare)} {spare < 0 ? "too late" : "before it is due"}
        </div>
      </td>
      <td>
        {waits && (
          <Select
            aria-label={`priority of ${run.item} of ${run.number}`}
            value={String(run.priority)}
            onChange={(e) => set({ priority: Number(e.target.value) as Run["priority"] })}
          >
            {Object.entries(PRIORITIES).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </Select>
        )}
      </td>
      <td className="whitespace-nowrap">
        {waits && (
          <>
            <Toggle on={run.held} set={(held) => set({ held })} run={run}>
              held
            </Toggle>{" "}
            <Toggle on={run.night} set={(night) => set({ night })} run={run}>
              at night
            </Toggle>
          </>
        )}
      </td>
      <td>
        {run.state !== "stopping" && (
          <Button
            className="min-h-7"
            aria-label={`Stop ${run.item} of ${run.number}`}
            disabled={stop.isPending}
            onClick={() => stop.mutate(run.id)}
          >
            Stop
          </Button>
        )}
        {stop.isError && <Problem error={stop.error} />}
      </td>
    </>
  );
}

function Foretold({ run, holdAll }: { run: Run; holdAll: boolean }) {
  if (run.held || holdAll) return <span className="font-semibold">held back</span>;
  return (
    <>
      <span className="figure">{clock(run.begins)}</span>, for{" "}
      <span className="figure">{span(run.seconds)}</span>
      {run.waits_for_night && <div className="muted">waits for the night</div>}
    </>
  );
}

function Going({ run }: { run: Run }) {
  const progress = useProgress("run", run.id, NONE);
  return (
    <>
      <progress
        className="progress progress-secondary w-24"
        max={1}
        value={progress?.share ?? 0}
        aria-label={`share of ${run.item} done`}
      />{" "}
      {run.state === "stopping" ? "stopping" : (progress?.stage ?? "")}, until{" "}
      <span className="figure">{clock(run.ends)}</span>
      {progress && progress.frame > 0 && (
        <div className="muted figure">
          frame {progress.frame}
          {progress.frames ? `/${progress.frames}` : ""}, {progress.speed.toFixed(2)}x,{" "}
          {span(progress.elapsed)} elapsed
          {progress.remaining != null && `, ${span(progress.remaining)} remaining`}
        </div>
      )}
    </>
  );
}

function Toggle({
  on,
  set,
  run,
  children,
}: {
  on: boolean;
  set: (on: boolean) => void;
  run: Run;
  children: string;
}) {
  return (
    <Button
      className={clsx("min-h-7", on && "btn-secondary")}
      aria-pressed={on}
      aria-label={`${children}: ${run.item} of ${run.number}`}
      onClick={() => set(!on)}
    >
      {children}
    </Button>
  );
}
