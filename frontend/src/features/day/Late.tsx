import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { useChangeTurns, useMoveRuns } from "../../api/mutations/day";
import { Button } from "../../ui/Button";
import { clock, span } from "../../ui/format";
import { Problem } from "../../ui/states";

type Day = Schemas["DayOut"];
type One = Schemas["LateOut"];
type Way = Schemas["HelpOut"];

/** Crates that are foretold to be late, and what would help. */
export function Late({ day }: { day: Day }) {
  if (!day.late.length) return null;
  return (
    <section aria-label="Would be late" className="mb-3 border-l-4 border-error bg-base-200 p-2">
      <h2 className="font-semibold">Would be late</h2>
      <ul>
        {day.late.map((one) => (
          <li key={one.id} className="py-1">
            <OneLate day={day} one={one} />
          </li>
        ))}
      </ul>
    </section>
  );
}

const comesTo = (way: Way) =>
  way.spare >= 0 ? `${span(way.spare)} to spare` : `${span(way.spare)} late still`;

function OneLate({ day, one }: { day: Day; one: One }) {
  const move = useMoveRuns();
  const change = useChangeTurns();
  const runs = day.runs.filter((r) => r.crate === one.id && r.state === "queued").map((r) => r.id);
  const first = day.runs.find((r) => r.state === "queued" && !runs.includes(r.id))?.id ?? null;
  const help = (way: Way) => {
    if (way.way !== "first" || first === null) change.mutate({ runs, held: false, night: false });
    else
      change.mutate(
        { runs, held: false, night: false },
        { onSuccess: () => move.mutate({ runs, before: first }) },
      );
  };
  return (
    <>
      <Link className="font-semibold hover:underline" to={`/crates/${one.id}`}>
        <span className="font-stencil">{one.number}</span> {one.title}
      </Link>{" "}
      would be {span(one.spare)} late; it is due {clock(one.due_at)}.{" "}
      {one.helps.length === 0 && "Nothing that is known here would help."}
      {one.helps.map((way) => (
        <span key={`${way.way} ${way.pace}`} className="mr-2 inline-flex items-center gap-1">
          {(way.way === "first" || way.way === "let go") && runs.length > 0 ? (
            <Button
              className="min-h-7"
              disabled={move.isPending || change.isPending}
              onClick={() => help(way)}
            >
              {way.way === "first" ? `Make ${one.number} first` : `Release ${one.number} now`}
            </Button>
          ) : way.way === "quicker" ? (
            <Link className="underline" to={`/crates/${one.id}`}>
              the pace {way.pace}
            </Link>
          ) : (
            <b>another worker</b>
          )}
          <span className="muted">({comesTo(way)})</span>
        </span>
      ))}
      {(move.isError || change.isError) && <Problem error={move.error ?? change.error} />}
    </>
  );
}
