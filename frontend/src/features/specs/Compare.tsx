import clsx from "clsx";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router-dom";
import { api, unwrap } from "../../api/client";
import { PageHead } from "../../ui/PageHead";
import { useKeys } from "../../ui/keys";
import { Empty, Loading, Problem } from "../../ui/states";
import { keys } from "../../api/keys";
import { useSpecs } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Grouped, Table } from "../../ui/Table";

const GROUPS = ["document", "picture", "motion", "sound", "file", "delivery", "coding", "house"];
const MARKS = { same: "", changed: "≠", added: "+", "taken out": "−" };

/** Two specs, or two versions of one, side by side. */
export function Compare() {
  const [query, setQuery] = useSearchParams();
  const [all, setAll] = useState(false);
  const left = query.get("left") ?? "";
  const right = query.get("right") ?? "";
  const number = (key: string) => Number(query.get(key)) || undefined;
  const specs = useSpecs();
  const made = useQuery({
    queryKey: keys.specs.compared(query.toString()),
    enabled: Boolean(left && right),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/specs/compare", {
          params: {
            query: {
              left,
              right,
              left_version: number("left_version"),
              right_version: number("right_version"),
            },
          },
        }),
      ),
  });
  useKeys([{ key: "a", does: "all rows, or only what differs", run: () => setAll((a) => !a) }]);
  const choose = (side: string, id: string) => {
    const next = new URLSearchParams(query);
    next.set(side, id);
    next.delete(`${side}_version`);
    setQuery(next);
  };
  const swap = () => {
    const next = new URLSearchParams();
    for (const [from, to] of [
      ["left", "right"],
      ["right", "left"],
    ] as const) {
      next.set(to, query.get(from) ?? "");
      const version = query.get(`${from}_version`);
      if (version) next.set(`${to}_version`, version);
    }
    setQuery(next);
  };
  if (specs.isPending) return <Loading what="the register" />;
  if (!specs.data) return <Problem error={specs.error} />;
  const rows = (made.data?.rows ?? []).filter((r) => all || r.change !== "same");
  const picker = (side: "left" | "right", value: string) => (
    <label className="flex min-w-0 grow flex-col">
      {side === "left" ? "this" : "against"}
      <select
        className="select select-sm w-full"
        value={value}
        onChange={(e) => choose(side, e.target.value)}
      >
        <option value="">choose a spec</option>
        {specs.data.map((s) => (
          <option key={s.id} value={s.id}>
            {s.recipient.name}: {s.title}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <>
      <PageHead title="Compare two specs">
        <Button size="sm" onClick={swap} disabled={!left && !right}>
          Swap sides
        </Button>
        <Button size="sm" aria-pressed={all} onClick={() => setAll(!all)}>
          {all ? "Only what differs" : "All rows"}
        </Button>
      </PageHead>
      <div className="mb-3 flex gap-3">
        {picker("left", left)}
        {picker("right", right)}
      </div>
      {made.isError && <Problem error={made.error} />}
      {(!left || !right) && (
        <Empty title="Choose two specs">Two versions of one are reached from its page.</Empty>
      )}
      {made.data && (
        <>
          <Table className="w-full table-fixed" label="Comparison">
            <thead>
              <tr>
                <th className="w-[22%]" />
                {[made.data.left, made.data.right].map((s, n) => (
                  <th key={n}>
                    <Link className="hover:underline" to={`/specs/${s.id}?version=${s.version}`}>
                      {s.title}
                    </Link>
                    <div className="muted font-normal">
                      {s.recipient?.name}, version {s.version}
                    </div>
                  </th>
                ))}
              </tr>
            </thead>
            <Grouped groups={GROUPS} of={(r) => r.group} rows={rows} span={3}>
              {(r) => (
                <tr key={r.label} data-change={r.change}>
                  <td>
                    {MARKS[r.change] && (
                      <span className="figure mr-1 inline-block w-3" title={r.change}>
                        {MARKS[r.change]}
                      </span>
                    )}
                    {r.label}
                  </td>
                  <td className={`figure break-words ${r.change !== "same" ? "bg-base-200" : ""}`}>
                    {r.left || <span className="muted font-sans">not asked</span>}
                  </td>
                  <td
                    className={clsx(
                      "figure break-words",
                      r.change !== "same" && "bg-base-200 font-semibold",
                    )}
                  >
                    {r.right || <span className="muted font-sans">not asked</span>}
                  </td>
                </tr>
              )}
            </Grouped>
          </Table>
          {rows.length === 0 && (
            <Empty title="They ask the same">Only their short names or versions differ.</Empty>
          )}
        </>
      )}
    </>
  );
}
