import { ArrowRight } from "lucide-react";
import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { masterFrame, plannedFrame, takenFrame } from "../../api/pictures";
import { LoadGauge } from "../../ui/LoadGauge";
import { NearNote } from "./Chosen";
import { Still } from "../../ui/Viewer";
import { Select } from "../../ui/Field";
import { VerdictBadge } from "../../ui/VerdictBadge";
import { useHardness } from "../../api/queries";
import { useChoose } from "../../api/mutations/crates";

type Deliverable = Schemas["DeliverableOut"];

/** Master frame, the chain of steps, the frame as it will be displayed, and the load. */
export function PictureBand({
  crate,
  deliverable,
  open,
}: {
  crate: number;
  deliverable: Deliverable;
  open: boolean;
}) {
  const choose = useChoose(deliverable.id);
  const learned = useHardness(deliverable.id).data?.learned ?? null;
  const { master, finished } = deliverable;
  const middle = takenFrame(
    deliverable,
    Math.floor((deliverable.master_frames || master.frames) / 2),
  );
  const done = finished && !deliverable.stale;
  const blocked = deliverable.cautions.some((c) => c.blocks) || deliverable.trouble !== null;
  const alone = !deliverable.picture_size && deliverable.steps.length > 0 && !blocked;
  const framing = String(deliverable.choices.framing ?? "pad");
  const picture = masterFrame(master, middle, 480);
  const planned = plannedFrame(deliverable, middle, 480);
  return (
    <div className="mb-3 flex items-stretch gap-3">
      <figure className="w-56 shrink-0">
        {master.has_picture && <Still className="h-32" src={picture} alt="a frame of the master" />}
        <figcaption className="text-xs leading-tight">
          <b>master</b> {master.summary.slice(0, 3).join(", ")}
          <NearNote master={master} />
        </figcaption>
      </figure>
      <ol
        aria-label="Route"
        className="flex min-w-0 grow flex-wrap content-start gap-1 bg-base-200 p-2"
      >
        {deliverable.steps.map((s, n) => (
          <li key={n} className="flex items-start gap-1">
            {n > 0 && <ArrowRight size={13} className="mt-1.5 shrink-0" aria-hidden />}
            <details className="border border-base-300 bg-base-100 px-1.5 py-0.5 open:max-w-72">
              <summary className="cursor-pointer list-none font-semibold">{s.title}</summary>
              {s.reason}
            </details>
          </li>
        ))}
        {deliverable.steps.length === 0 && <li>No route yet.</li>}
      </ol>
      <figure className="w-56 shrink-0">
        {alone && (
          <p className="flex h-32 items-center justify-center border border-base-300 px-3 text-sm">
            Sound alone, no picture.
          </p>
        )}
        {done && finished && !alone ? (
          <Still
            className="h-32"
            src={`/api/runs/${finished.id}/frames/${Math.floor(deliverable.frames / 2)}?width=480`}
            alt="the same moment of the deliverable"
          />
        ) : (
          master.has_picture &&
          deliverable.display_aspect && (
            <Still className="h-32" src={planned} alt="the frame as it will be shown" />
          )
        )}
        {!done && blocked && !alone && !deliverable.display_aspect && (
          <p className="flex h-32 items-center border border-base-300 px-3 text-center text-sm">
            No preview until this can be run.
          </p>
        )}
        <figcaption className="text-xs leading-tight">
          <b>{done ? "deliverable" : alone ? "as it will be heard" : "as it will be shown"}</b>{" "}
          {deliverable.picture_size}
          {open && !alone && deliverable.choices.picture !== "copied" && (
            <label className="ml-1">
              framing{" "}
              <Select
                value={framing}
                onChange={(e) => choose.mutate({ property: "framing", value: e.target.value })}
              >
                {(deliverable.options.framing ?? []).map((f) => (
                  <option key={f.value}>{f.label}</option>
                ))}
              </Select>
            </label>
          )}
          <Link
            className="ml-1 underline"
            to={`/crates/${crate}/bench/${deliverable.id}${alone ? "?part=sound" : ""}`}
          >
            Planning bench
          </Link>
        </figcaption>
      </figure>
      <div className="w-36 shrink-0">
        <LoadGauge
          size={(done && finished?.size) || deliverable.predicted_size}
          cap={deliverable.cap}
          of={deliverable.cap_of}
          measured={Boolean(done)}
          range={done ? null : deliverable.predicted_range}
          buys={learned && { poor: learned.poor.size, clean: learned.clean.size }}
        />
        {learned && !done && (
          <Foretold learned={learned} to={`/crates/${crate}/bench/${deliverable.id}?part=rate`} />
        )}
      </div>
    </div>
  );
}

/** What the planned rate buys, where that was learned. */
function Foretold({ learned, to }: { learned: Schemas["LearnedOut"]; to: string }) {
  const { planned, poor } = learned;
  if (!planned.near) return null;
  const low = planned.xpsnr < poor.quality;
  return (
    <p className="text-center text-xs leading-tight">
      {low && <VerdictBadge small verdict="advice" />} {low && <b>will look poor: </b>}
      <Link className="underline" to={to}>
        XPSNR {planned.xpsnr.toFixed(1)} dB
      </Link>{" "}
      foretold
    </p>
  );
}
