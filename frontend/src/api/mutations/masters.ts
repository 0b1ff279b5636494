import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../client";
import { keys } from "../keys";
import { type Done, useChange } from "./change";

const at = (id: number) => ({ params: { path: { id } } });

/** Ingests what lies in an intake folder. */
export const useIngest = (done: Done<unknown>) =>
  useChange(
    ["master"],
    (body: Schemas["Ingest"]) => unwrap(api.POST("/api/intake", { body })),
    done,
  );

/** Has an intake folder watched, or not any more. */
export function useWatchFolder() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["WatchFolder"]) => unwrap(api.PUT("/api/intake/watch", { body })),
    onSettled: () => client.invalidateQueries({ queryKey: keys.masters.intakes }),
  });
}

/** Joins stills as one sequence. */
export const useJoinStills = (done: Done<unknown>) =>
  useChange(
    ["master"],
    (body: Schemas["Join"]) => unwrap(api.POST("/api/intake/join", { body })),
    done,
  );

/** Forgets an upload that was never finished. */
export function useForgetUpload() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      fetch(`/api/uploads/${id}`, { method: "DELETE", headers: { "Tus-Resumable": "1.0.0" } }),
    onSettled: () => client.invalidateQueries({ queryKey: keys.masters.unfinished }),
  });
}

/** Reads and measures a master again. */
export const useReadAgain = () =>
  useChange(["master"], (id: number) => unwrap(api.POST("/api/masters/{id}/read", at(id))));

/** Dismisses masters. */
export const useDismissMasters = (done: Done<unknown> = {}) =>
  useChange(
    ["master"],
    (ids: number[]) =>
      Promise.all(ids.map((id) => unwrap(api.DELETE("/api/masters/{id}", at(id))))),
    done,
  );

/** Says which production masters belong to. */
export const useSetProduction = (done: Done<unknown> = {}) =>
  useChange(
    ["master"],
    ({ ids, production }: { ids: number[]; production: string }) =>
      Promise.all(
        ids.map((id) =>
          unwrap(api.PATCH("/api/masters/{id}", { ...at(id), body: { production } })),
        ),
      ),
    done,
  );

/** Corrects a fact of a master; null takes the correction back. */
export const useCorrect = (id: number, key: string, done: Done<unknown>) =>
  useChange(
    ["master"],
    (value: string | null) =>
      unwrap(api.PUT("/api/masters/{id}/corrections", { ...at(id), body: { key, value } })),
    done,
  );

/** Keeps a named range of a master. */
export const useKeepRange = (id: number, done: Done<unknown>) =>
  useChange(
    ["master"],
    (body: Schemas["SpanIn"]) => unwrap(api.POST("/api/masters/{id}/spans", { ...at(id), body })),
    done,
  );

/** Forgets a range. */
export const useForgetRange = (id: number) =>
  useChange(["master"], (span: number) =>
    unwrap(api.DELETE("/api/masters/{id}/spans/{span}", { params: { path: { id, span } } })),
  );

/** Has the proxy made. */
export const useOrderProxy = (id: number) =>
  useMutation({ mutationFn: () => unwrap(api.POST("/api/masters/{id}/proxy", at(id))) });

/** Finds the frame that a timecode or number names. */
export const useFindFrame = (id: number, done: Done<Schemas["FrameAt"]>) =>
  useMutation({
    mutationFn: (label: string) =>
      unwrap(api.GET("/api/masters/{id}/frame-at", { params: { path: { id }, query: { label } } })),
    ...done,
  });

/** Has codecs tried on a part of a master. */
export const useTryCodecs = (id: number) =>
  useChange(["codec_trial"], (body: Schemas["TryCodecs"]) =>
    unwrap(api.POST("/api/masters/{id}/codec-trial", { ...at(id), body })),
  );

/** Stops that. */
export const useStopTrying = (id: number) =>
  useChange(["codec_trial"], () =>
    unwrap(api.POST("/api/masters/{id}/codec-trial/cancel", at(id))),
  );
