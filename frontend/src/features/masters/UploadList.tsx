import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { bytes } from "../../ui/format";
import { useUploads } from "./upload";
import { keys } from "../../api/keys";
import { Button } from "../../ui/Button";
import { useForgetUpload } from "../../api/mutations/masters";

/** Files on their way up, and those that a reload or a lost line left half-way. */
export function UploadList({ choose }: { choose: () => void }) {
  const coming = useUploads();
  const left = useQuery({
    queryKey: keys.masters.unfinished,
    queryFn: () => unwrap(api.GET("/api/uploads/unfinished")),
  });
  const forget = useForgetUpload();
  const lost = (left.data ?? []).filter(
    (u) => !coming.some((c) => c.name === u.name && c.size === u.length),
  );
  return (
    <>
      {coming.length > 0 && (
        <ul aria-label="Files on their way" className="tape mb-3 bg-base-200 p-2">
          {coming.map((c) => (
            <li key={c.key} className="flex items-center gap-3 py-0.5">
              <span className="w-64 truncate">{c.name}</span>
              <progress
                className="progress progress-secondary w-40"
                max={c.size || 1}
                value={c.sent}
                aria-label={`${c.name} sent`}
              />
              <span className="figure">
                {bytes(c.sent)} of {bytes(c.size)}
              </span>
              {c.state === "sending" && <Button onClick={c.stop}>Pause</Button>}
              {(c.state === "paused" || c.state === "failed") && (
                <Button onClick={c.go}>Go on</Button>
              )}
              {c.error && (
                <span role="alert" className="text-error">
                  {c.error}
                </span>
              )}
            </li>
          ))}
        </ul>
      )}
      {lost.length > 0 && (
        <ul aria-label="Left half-way" className="mb-3 border-l-4 border-warning bg-base-200 p-2">
          {lost.map((u) => (
            <li key={u.id} className="flex flex-wrap items-center gap-3 py-0.5">
              <span>
                {u.name} is here in part:{" "}
                <span className="figure">
                  {bytes(u.arrived)} of {bytes(u.length)}
                </span>
                . Choose the same file again and it goes on from there.
              </span>
              <Button onClick={choose}>Choose it</Button>
              <Button onClick={() => forget.mutate(u.id)}>Forget it</Button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
