import { Link } from "react-router-dom";
import { useDay } from "../../api/queries";
import { Button } from "../../ui/Button";
import { PageHead } from "../../ui/PageHead";
import { useAddress } from "../../ui/address";
import { Loading, Problem } from "../../ui/states";
import { DayRules } from "./DayRules";
import { Lanes } from "./Lanes";
import { Late } from "./Late";
import { Turns } from "./Turns";
import { fitting, NAMES, spanOf } from "./window";

/** All runs on one time line: what was made, what is being made, what waits, and for whom. */
export function DaySheet() {
  const day = useDay();
  const [asked, setAsked] = useAddress("window", "");
  if (day.isPending) return <Loading what="the day sheet" />;
  if (!day.data) return <Problem error={day.error} again={() => void day.refetch()} />;
  const { rules, runs, accuracy } = day.data;
  const now = new Date(day.data.now).getTime();
  const fits = fitting(
    runs.filter((r) => !r.held).map((r) => new Date(r.ends).getTime()),
    now,
  );
  const name = NAMES.find((n) => n === asked) ?? fits;
  return (
    <>
      <PageHead title="Day sheet">
        <span role="group" aria-label="How much is shown" className="flex gap-1">
          {NAMES.map((n) => (
            <Button
              key={n}
              size="sm"
              tone={n === name ? "secondary" : "plain"}
              aria-pressed={n === name}
              onClick={() => setAsked(n)}
            >
              {n}
            </Button>
          ))}
        </span>
        <Link className="btn btn-sm" to="/runs">
          Past runs
        </Link>
      </PageHead>
      {day.isError && <Problem error={day.error} />}
      <Late day={day.data} />
      <DayRules key={JSON.stringify(rules.night)} rules={rules} />
      <Lanes day={day.data} shown={spanOf(name, now)} />
      {accuracy && (
        <p className="muted mb-1">
          Times foretold before runs began were off by {Math.round(accuracy.middle * 100)} % in the
          middle, over the newest {accuracy.runs}.
        </p>
      )}
      <Turns runs={runs} holdAll={rules.hold_all} />
    </>
  );
}
