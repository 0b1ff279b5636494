import clsx from "clsx";
import type { Schemas } from "../../api/client";
import { useWantWorker } from "../../api/mutations/day";
import { Button } from "../../ui/Button";
import { bytes, clock } from "../../ui/format";
import { Problem } from "../../ui/states";
import { barOf, marks, place, type Span } from "./window";

type Day = Schemas["DayOut"];
type Worker = Schemas["WorkerOut"];
type OnSheet = Schemas["RunOnSheet"];

/** Every run on one time line, a lane for each worker, and the times at which crates are due. */
export function Lanes({ day, shown }: { day: Day; shown: Span }) {
  const known = new Set(day.workers.map((w) => w.id));
  const runs: OnSheet[] = [...day.past, ...day.runs];
  // What a worker made that is not there any more has a lane of its own.
  const others = runs.filter((r) => !known.has(r.worker ?? -1) && barOfRun(r, shown));
  return (
    <section aria-label="Time line" className="mb-4 border border-base-300">
      <Lane label={<span className="muted">due</span>}>
        <Dues day={day} shown={shown} />
      </Lane>
      {day.workers.map((w) => (
        <Lane key={w.id} label={<WorkerLabel worker={w} />}>
          <Bars runs={runs.filter((r) => r.worker === w.id)} shown={shown} />
        </Lane>
      ))}
      {others.length > 0 && (
        <Lane label={<span className="muted">workers that are gone</span>}>
          <Bars runs={others} shown={shown} />
        </Lane>
      )}
      {day.workers.length === 0 && (
        <p className="p-2">No worker is there. What waits is begun as soon as one is.</p>
      )}
      <Lane label={<span className="sr-only">time</span>}>
        <div aria-hidden className="muted figure relative h-5 overflow-hidden text-xs">
          {marks(shown).map((at) => (
            <span key={at} className="absolute pl-1" style={{ left: `${place(at, shown)}%` }}>
              {clock(new Date(at)).slice(-5)}
            </span>
          ))}
        </div>
      </Lane>
    </section>
  );
}

function Lane({ label, children }: { label: React.ReactNode; children: React.ReactNode }) {
  return (
    <div className="flex items-stretch border-b border-base-300 last:border-0">
      <div className="w-64 shrink-0 border-r border-base-300 px-2 py-1">{label}</div>
      <div className="min-w-0 grow self-center">{children}</div>
    </div>
  );
}

const barOfRun = (r: OnSheet, shown: Span) =>
  barOf(new Date(r.begins).getTime(), new Date(r.ends).getTime(), shown);

const LOOKS: Record<string, string> = {
  done: "bg-base-300",
  failed: "bg-error text-error-content",
  cancelled: "border border-dashed border-base-content",
  running: "bg-secondary text-secondary-content",
  stopping: "bg-secondary text-secondary-content opacity-60",
  queued: "border border-secondary",
};

/** Runs of a lane; whoever cannot see it has the same in the tables. */
function Bars({ runs, shown }: { runs: OnSheet[]; shown: Span }) {
  return (
    <div aria-hidden className="relative h-9 overflow-hidden">
      <Marks shown={shown} />
      {runs.map((r) => {
        const bar = barOfRun(r, shown);
        return (
          bar && (
            <div
              key={r.id}
              className={clsx(
                "absolute top-1 h-7 overflow-hidden px-0.5 text-xs leading-7 whitespace-nowrap",
                LOOKS[r.state],
              )}
              style={{ left: `${bar.left}%`, width: `max(3px, ${bar.width}%)` }}
              title={`${r.number} ${r.item}: ${r.state}, ${clock(r.begins)} to ${clock(r.ends)}`}
            >
              {r.number}
            </div>
          )
        );
      })}
      <Now shown={shown} />
    </div>
  );
}

const Now = ({ shown }: { shown: Span }) => (
  <div
    className="absolute inset-y-0 border-l-2 border-accent"
    style={{ left: `${place((shown.from * 3 + shown.to) / 4, shown)}%` }}
  />
);

const Marks = ({ shown }: { shown: Span }) =>
  marks(shown).map((at) => (
    <div
      key={at}
      className="absolute inset-y-0 border-l border-base-300 opacity-50"
      style={{ left: `${place(at, shown)}%` }}
    />
  ));

function Dues({ day, shown }: { day: Day; shown: Span }) {
  const late = new Set(day.late.map((l) => l.id));
  const dues = new Map(day.runs.map((r) => [r.crate, r]));
  return (
    <div aria-hidden className="relative h-6 overflow-hidden">
      <Marks shown={shown} />
      {[...dues.values()].map((r) => {
        const at = new Date(r.due_at).getTime();
        return (
          at >= shown.from &&
          at <= shown.to && (
            <span
              key={r.crate}
              className={clsx(
                "font-stencil absolute border-l-2 pl-1",
                late.has(r.crate) ? "border-error text-error" : "border-success",
              )}
              style={{ left: `${place(at, shown)}%` }}
              title={`${r.number} ${r.title} is due ${clock(r.due_at)}`}
            >
              {r.number}
            </span>
          )
        );
      })}
      <Now shown={shown} />
    </div>
  );
}

const SAID: Record<Worker["wanted"], string> = {
  working: "works",
  drained: "takes nothing more",
  paused: "paused",
};
const DOES: Record<Worker["wanted"], string> = {
  working: "Resume",
  drained: "Drain",
  paused: "Pause",
};

function WorkerLabel({ worker }: { worker: Worker }) {
  const want = useWantWorker();
  const name = `${worker.machine}, worker ${worker.place}`;
  const others = (["paused", "drained", "working"] as const).filter((w) => w !== worker.wanted);
  return (
    <div>
      <b title={`encodes ${worker.encoders.join(", ")}`}>{name}</b>{" "}
      <span className="muted">
        {worker.processors} processors, {bytes(worker.room)} free
      </span>
      <div className="flex flex-wrap items-center gap-1">
        <span className={worker.wanted === "working" ? "muted" : "font-semibold"}>
          {worker.wanted === worker.heard ? SAID[worker.wanted] : "is being told"}
          {worker.resting && ", holds still"}
        </span>
        {others.map((w) => (
          <Button
            key={w}
            className="min-h-7"
            aria-label={`${DOES[w]} ${name}`}
            disabled={want.isPending}
            onClick={() => want.mutate({ id: worker.id, wanted: w })}
          >
            {DOES[w]}
          </Button>
        ))}
      </div>
      {want.isError && <Problem error={want.error} />}
    </div>
  );
}
