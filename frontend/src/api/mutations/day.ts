import { api, type Schemas, unwrap } from "../client";
import { useChange } from "./change";

/** Puts runs before another one, or after all. */
export const useMoveRuns = () =>
  useChange(["day"], (body: Schemas["MoveRuns"]) => unwrap(api.POST("/api/runs/move", { body })));

export type Turn = Partial<Omit<Schemas["ChangeTurns"], "runs">>;
const AS_IT_IS = { priority: null, held: null, night: null };

/** Changes the priority of runs, holds them, or leaves them for the night. */
export const useChangeTurns = () =>
  useChange(["day"], ({ runs, ...turn }: { runs: number[] } & Turn) =>
    unwrap(api.PATCH("/api/runs/turns", { body: { runs, ...AS_IT_IS, ...turn } })),
  );

/** Keeps the rules by which all runs wait. */
export const useKeepRules = () =>
  useChange(["day"], (body: Schemas["Rules"]) => unwrap(api.PUT("/api/day/rules", { body })));

/** Pauses a worker, drains it, or lets it work. */
export const useWantWorker = () =>
  useChange(["worker"], ({ id, wanted }: { id: number; wanted: Schemas["WantWorker"]["wanted"] }) =>
    unwrap(api.PUT("/api/workers/{id}/wanted", { params: { path: { id } }, body: { wanted } })),
  );
