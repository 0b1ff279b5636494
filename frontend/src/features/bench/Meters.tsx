import { useMeters } from "../../api/queries";

const MINUTE = 600; // tenths of a second
const BOTTOM = -60; // dBFS

/** The highest sample of each channel in the tenth of a second that is listened to. */
export function Meters({
  deliverable,
  hearing,
  track,
  taken,
  made,
  at,
}: {
  deliverable: number;
  hearing: number;
  track: number;
  taken: string[];
  made: string[];
  at: number;
}) {
  const tenth = Math.floor(at * 10 + 1e-6);
  const first = Math.floor(tenth / MINUTE) * MINUTE;
  const found = useMeters(deliverable, hearing, track, first);
  const now = (levels: number[][] | undefined, channel: number) =>
    levels?.[channel]?.[tenth - first] ?? null;
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-2">
      <Side name="taken" speakers={taken} level={(n) => now(found.data?.taken, n)} />
      <Side name="made" speakers={made} level={(n) => now(found.data?.made, n)} />
    </div>
  );
}

function Side({
  name,
  speakers,
  level,
}: {
  name: string;
  speakers: string[];
  level: (channel: number) => number | null;
}) {
  return (
    <section aria-label={`Levels, ${name}`}>
      <h2 className="font-semibold">{name}</h2>
      {speakers.map((speaker, n) => (
        <Meter key={speaker} name={speaker} level={level(n)} />
      ))}
    </section>
  );
}

function Meter({ name, level }: { name: string; level: number | null }) {
  const shown = Math.max(BOTTOM, Math.min(0, level ?? BOTTOM));
  return (
    <div className="figure flex items-center gap-2 text-xs">
      <span className="w-8">{name}</span>
      <div
        role="meter"
        aria-label={`${name}, dBFS`}
        aria-valuemin={BOTTOM}
        aria-valuemax={0}
        aria-valuenow={shown}
        className="h-2 w-40 border border-base-300 bg-base-200"
      >
        <div
          className={`h-full ${(level ?? BOTTOM) > -1 ? "bg-primary" : "bg-secondary"}`}
          style={{ width: `${100 * (1 - shown / BOTTOM)}%` }}
        />
      </div>
      <span className="w-12 text-right">
        {level === null || level <= BOTTOM ? "-" : level.toFixed(1)}
      </span>
    </div>
  );
}
