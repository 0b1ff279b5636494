import type { Schemas } from "../../api/client";
import { useChoose, useEase, useStopEasing } from "../../api/mutations/crates";
import { useEasing } from "../../api/queries";
import { Button } from "../../ui/Button";
import { bitRate, span } from "../../ui/format";
import { Loading, Problem } from "../../ui/states";
import { Table } from "../../ui/Table";
import { Going, Troubles } from "../crates/Going";
import type { Part } from "./Foot";

type Eased = Schemas["EasedOut"];
const BUSY = ["waiting", "easing", "stopping"];

type Props = Omit<Part, "crate"> & { planned: Schemas["BoughtOut"] };

/** What would help where a rate is too low for the pictures, each with its figures. */
export function Easing({ one, open, planned }: Props) {
  const found = useEasing(one.id);
  const ease = useEase(one.id);
  const stop = useStopEasing(one.id);
  if (found.isError && !found.data)
    return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Loading what="what would help" />;
  const { state, offered, ways, stale, hindrance } = found.data;
  const busy = BUSY.includes(state);
  return (
    <section aria-label="What would help" className="my-2">
      <h2 className="font-semibold">What would help</h2>
      {!hindrance && offered.length === 0 && (
        <p>The spec leaves no room for a smaller frame, fewer frames or another codec.</p>
      )}
      <div className="flex flex-wrap items-center gap-3">
        {busy && (
          <Going
            topic="easing"
            found={found.data}
            working="easing"
            label="share of what would help that is looked at"
            said={said}
            stop={stop}
          />
        )}
        {!busy && open && offered.length > 0 && (
          <Button disabled={ease.isPending} onClick={() => ease.mutate()}>
            {ways.length > 0 ? "See again by how much" : "See by how much"}
          </Button>
        )}
        {!busy && ways.length === 0 && <span>{offered.join("; ")}</span>}
      </div>
      {ease.isError && <Problem error={ease.error} />}
      <Troubles found={found.data} failed="It could not be looked at" />
      {state === "cancelled" && <p role="status">Looking was stopped.</p>}
      {stale && !busy && <p role="status">What was found is of what was planned before.</p>}
      {ways.length > 0 && <Ways one={one} open={open} planned={planned} ways={ways} />}
    </section>
  );
}

function Ways({ one, open, planned, ways }: Props & { ways: Eased[] }) {
  const choose = useChoose(one.id);
  const best = [...ways].sort((a, b) => Number(b.near) - Number(a.near) || b.xpsnr - a.xpsnr);
  return (
    <>
      <Table
        label="What would help"
        columns={["", "XPSNR", "PSNR", "SSIM", "not poor from", ""]}
        className="w-auto"
      >
        <tbody>
          <tr>
            <th>as planned</th>
            <Figures of={planned} />
            <td />
            <td />
          </tr>
          {best.map((way) => (
            <tr key={`${way.key} ${way.value}`}>
              <th>{way.says}</th>
              <Figures of={way} />
              <td className="figure">{way.poor === null ? "" : bitRate(way.poor)}</td>
              <td>
                {way.near && way.xpsnr <= planned.xpsnr && <span className="muted">no help </span>}
                {open && (
                  <Button
                    disabled={choose.isPending}
                    aria-label={`Take it: ${way.says}`}
                    onClick={() => choose.mutate({ property: way.key, value: way.value })}
                  >
                    Take it
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <p className="muted">
        At {bitRate(planned.bit_rate)}, from a few seconds. A smaller frame is held against itself
        before coding: what it cannot show any more does not count.
      </p>
      {choose.isError && <Problem error={choose.error} />}
    </>
  );
}

function Figures({ of }: { of: Pick<Eased, "xpsnr" | "psnr" | "ssim"> & { near: boolean } }) {
  if (!of.near)
    return (
      <td colSpan={3} className="muted">
        not foretold: far from what was tried
      </td>
    );
  return (
    <>
      <td className="figure">{of.xpsnr.toFixed(1)} dB</td>
      <td className="figure">{of.psnr.toFixed(1)} dB</td>
      <td className="figure">{of.ssim.toFixed(4)}</td>
    </>
  );
}

const said = (progress: Schemas["Progress"]) =>
  progress.remaining == null ? "looking" : `about ${span(progress.remaining)} remaining`;
