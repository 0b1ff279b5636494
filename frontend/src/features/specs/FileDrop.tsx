import clsx from "clsx";
import { Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Problem } from "../../ui/states";
import { tryFile, type Trying } from "./trial";
import { Button } from "../../ui/Button";

/** A place to drop one file that is trial at and not kept. */
export function FileDrop({
  label,
  spec,
  version,
  found,
}: {
  label: string;
  spec?: string;
  version?: number;
  found: (trial: Schemas["Trial"] | null) => void;
}) {
  const [now, setNow] = useState<(Trying & { name: string }) | null>(null);
  const [wrong, setWrong] = useState<unknown>(null);
  const [over, setOver] = useState(false);
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const take = async (file: File | undefined) => {
    if (!file) return;
    stop.current?.abort();
    const mine = new AbortController();
    stop.current = mine;
    setWrong(null);
    found(null);
    try {
      const trial = await tryFile(
        file,
        { spec, version },
        (n) => {
          if (stop.current === mine) setNow({ ...n, name: file.name });
        },
        mine.signal,
      );
      if (stop.current === mine) found(trial);
    } catch (e) {
      if (!mine.signal.aborted) setWrong(e);
    }
    if (stop.current === mine) setNow(null);
  };
  return (
    <div>
      <label
        className={clsx(
          "flex cursor-pointer items-center gap-3 border border-dashed p-4 focus-within:outline-2",
          over ? "border-primary bg-base-200" : "border-base-content/50",
        )}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          void take(e.dataTransfer.files[0]);
        }}
      >
        <Upload size={18} aria-hidden />
        <span>{label}</span>
        <input
          type="file"
          className="sr-only"
          aria-label={label}
          onChange={(e) => {
            void take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </label>
      {now && (
        <p className="mt-2 flex items-center gap-3" role="status">
          <progress
            className="progress progress-secondary w-48"
            max={1}
            value={now.stage === "sending" ? undefined : now.share}
            aria-label="share of the file measured"
          />
          <span className="break-all">
            {now.stage} {now.name}
          </span>
          <Button
            onClick={() => {
              stop.current?.abort();
              setNow(null);
            }}
          >
            Stop
          </Button>
        </p>
      )}
      {wrong != null && <Problem error={wrong} />}
    </div>
  );
}
