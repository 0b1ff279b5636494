import { Link } from "react-router-dom";
import { type Schemas } from "../../api/client";
import { useForetold } from "../../api/queries";
import { Table } from "../../ui/Table";
import { bytes, length } from "../../ui/format";
import { Loading, Problem } from "../../ui/states";

type Kind = Schemas["KindOut"];
type ErrorOfKind = Schemas["ErrorOfKind"];
type Held = Schemas["ForetoldFigure"];
type Run = Schemas["ForetoldRun"];

const right = (head: string) => ({ head, className: "text-right" });

/** What was foretold of runs before they began, held against what came. */
export function Foretold() {
  const found = useForetold();
  if (found.isPending) return <Loading what="what was foretold" />;
  if (!found.data) return <Problem error={found.error} again={() => void found.refetch()} />;
  const { kinds, runs, enough } = found.data;
  return (
    <section aria-label="Foretold" className="mb-4">
      <h2 className="font-semibold">What was foretold, and what came</h2>
      <p className="muted">
        Size, time and quality as they were foretold when a run was ordered, against what came. Each
        finished run teaches the next of its kind; from {enough} on its quality counts too.
      </p>
      {kinds.length === 0 ? (
        <p>Nothing was run since this is kept.</p>
      ) : (
        <>
          <Kinds kinds={kinds} />
          <details>
            <summary className="min-h-7 cursor-pointer">
              The newest {runs.length}, one by one
            </summary>
            <Runs runs={runs} />
          </details>
        </>
      )}
    </section>
  );
}

function Kinds({ kinds }: { kinds: Kind[] }) {
  return (
    <Table
      columns={[
        "what was coded",
        right("size off by"),
        right("time off by"),
        right("quality off by"),
      ]}
      label="How far off what was foretold was"
      className="mb-2 w-full"
    >
      <tbody>
        {kinds.map((kind) => (
          <tr key={kind.coded}>
            <td>
              <b>{kind.coded || "copied"}</b>
              {!kind.taught && <span className="muted"> few runs so far</span>}
            </td>
            <Off error={kind.size} said={share} />
            <Off error={kind.time} said={share} />
            <Off error={kind.quality} said={decibels} />
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** The middle error and the worst, of so many runs. */
function Off({ error, said }: { error: ErrorOfKind | null; said: (n: number) => string }) {
  if (!error) return <td className="muted text-right">not known</td>;
  return (
    <td className="text-right whitespace-nowrap">
      <b className="figure">{said(error.middle)}</b>{" "}
      <span className="muted">
        (worst <span className="figure">{said(error.worst)}</span>, of {error.runs})
      </span>
    </td>
  );
}

function Runs({ runs }: { runs: Run[] }) {
  return (
    <Table
      columns={["run", "what was coded", right("size"), right("time"), right("quality")]}
      label="What was foretold of runs, and what came"
    >
      <tbody>
        {runs.map((run) => (
          <tr key={run.run}>
            <td>
              <Link className="link" to={`/crates/${run.crate}?item=${run.deliverable}`}>
                {run.name}
              </Link>{" "}
              <span className="muted figure">{run.run}</span>
            </td>
            <td>{run.coded || "copied"}</td>
            <Both held={run.size} said={bytes} />
            <Both held={run.time} said={length} />
            <Both held={run.quality} said={decibels} />
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** What was foretold, and what came. */
function Both({ held, said }: { held: Held | null; said: (n: number) => string }) {
  if (!held) return <td className="muted text-right">not known</td>;
  return (
    <td className="text-right whitespace-nowrap">
      <span className="muted figure">{said(held.foretold)}</span> <span aria-hidden>→</span>{" "}
      <span className="sr-only">came as</span> <span className="figure">{said(held.came)}</span>
    </td>
  );
}

const share = (n: number) => `${(100 * n).toFixed(1)} %`;
const decibels = (n: number) => `${n.toFixed(2)} dB`;
