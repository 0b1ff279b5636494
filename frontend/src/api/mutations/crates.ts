import { api, type Schemas, unwrap } from "../client";
import { type Done, useChange } from "./change";

export type Choice = { property: string; value: string | null };
export type CrateStep = "run" | "stop" | "seal" | "hand over" | "revise" | "remove";

/** Makes a crate. */
export const useMakeCrate = (done: Done<Schemas["CratePage"]>) =>
  useChange(
    ["crate"],
    (body: Schemas["NewCrate"]) => unwrap(api.POST("/api/crates", { body })),
    done,
  );

const STEPS = {
  run: (id: number) => api.POST("/api/crates/{id}/runs", { params: { path: { id } } }),
  stop: (id: number) => api.POST("/api/crates/{id}/runs/stop", { params: { path: { id } } }),
  seal: (id: number) => api.POST("/api/crates/{id}/seal", { params: { path: { id } } }),
  "hand over": (id: number) => api.POST("/api/crates/{id}/hand-over", { params: { path: { id } } }),
  revise: (id: number) => api.POST("/api/crates/{id}/revisions", { params: { path: { id } } }),
  remove: (id: number) => api.DELETE("/api/crates/{id}", { params: { path: { id } } }),
};

/** Takes a step of a crate. */
export const useCrateStep = (id: number, done: Done<{ id: number }, CrateStep>) =>
  useChange(
    ["crate"],
    (step: CrateStep): Promise<{ id: number }> => unwrap<{ id: number }>(STEPS[step](id)),
    done,
  );

/** Puts a removed crate back. */
export const useRestoreCrate = () =>
  useChange(["crate"], (id: number) =>
    unwrap(api.POST("/api/crates/{id}/restore", { params: { path: { id } } })),
  );

/** Has a crate follow another version of its spec. */
export const useFollowSpec = (id: number) =>
  useChange(["crate"], (version: number) =>
    unwrap(api.POST("/api/crates/{id}/spec", { params: { path: { id } }, body: { version } })),
  );

/** Chooses a value for a deliverable; null goes back to what is planned. */
export const useChoose = (id: number) =>
  useChange(["crate"], (body: Choice) =>
    unwrap(api.PATCH("/api/crates/deliverables/{id}", { params: { path: { id } }, body })),
  );

/** Takes the last choice for a deliverable back, or chooses it again. */
export const useStepBack = (id: number) =>
  useChange(["crate"], (way: "undo" | "redo") =>
    unwrap(
      way === "undo"
        ? api.POST("/api/crates/deliverables/{id}/undo", { params: { path: { id } } })
        : api.POST("/api/crates/deliverables/{id}/redo", { params: { path: { id } } }),
    ),
  );

/** Keeps what is chosen for a deliverable as the house's, in a new version of its spec. */
export const useKeepForHouse = (id: number) =>
  useChange(["spec"], (keys: string[]) =>
    unwrap(
      api.PUT("/api/crates/deliverables/{id}/house", {
        params: { path: { id } },
        body: { keys },
      }),
    ),
  );

/** Chooses for a deliverable what its spec has new crates begin with. */
export const useBeginAsHouse = (id: number) =>
  useChange(["crate"], () =>
    unwrap(api.POST("/api/crates/deliverables/{id}/house", { params: { path: { id } } })),
  );

/** Chooses for other deliverables of the crate what is chosen for one. */
export const useCarryOver = (id: number) =>
  useChange(["crate"], (body: Schemas["CarryOver"]) =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/carry-over", { params: { path: { id } }, body }),
    ),
  );

/** Takes another master's sound for a deliverable; null goes back to the master's own. */
export const useTakeSound = (id: number) =>
  useChange(["crate"], (master: number | null) =>
    unwrap(
      api.PUT("/api/crates/deliverables/{id}/sound", {
        params: { path: { id } },
        body: { master },
      }),
    ),
  );

/** Lays transparency over another master's first picture; null goes back to what was before. */
export const useLayOver = (id: number) =>
  useChange(["crate"], (master: number | null) =>
    unwrap(
      api.PUT("/api/crates/deliverables/{id}/under", {
        params: { path: { id } },
        body: { master },
      }),
    ),
  );

/** Takes a range of the master. */
export const useTakeRange = (id: number) =>
  useChange(["crate"], (body: Schemas["TakeRange"]) =>
    unwrap(api.PUT("/api/crates/deliverables/{id}/range", { params: { path: { id } }, body })),
  );

/** Has the paces of a codec tried on the machine that encodes. */
export const useTryPaces = () =>
  useChange(["pace"], (codec: string) => unwrap(api.POST("/api/paces", { body: { codec } })));

/** Signs a broken requirement of a deliverable off. */
export const useSignOff = (id: number) =>
  useChange(["crate"], (body: Schemas["SignOff"]) =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/exceptions", { params: { path: { id } }, body }),
    ),
  );

/** Runs one deliverable again. */
export const useRunAgain = () =>
  useChange(["crate"], (id: number) =>
    unwrap(api.POST("/api/deliverables/{id}/runs", { params: { path: { id } } })),
  );

/** Stops a run. */
export const useStopRun = () =>
  useChange(["run"], (id: number) =>
    unwrap(api.POST("/api/runs/{id}/cancel", { params: { path: { id } } })),
  );

/** Has what a run made held against its master, frame by frame. */
export const useCompare = (run: number) =>
  useChange(["comparison"], () =>
    unwrap(api.POST("/api/runs/{id}/quality", { params: { path: { id: run } } })),
  );

/** Stops a comparison. */
export const useStopComparing = (run: number) =>
  useChange(["comparison"], () =>
    unwrap(api.POST("/api/runs/{id}/quality/cancel", { params: { path: { id: run } } })),
  );

/** Has learned what quality a rate buys of a deliverable's pictures. */
export const useLearn = (deliverable: number) =>
  useChange(["sampling"], () =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/hardness", { params: { path: { id: deliverable } } }),
    ),
  );

/** Stops that. */
export const useStopLearning = (deliverable: number) =>
  useChange(["sampling"], () =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/hardness/cancel", {
        params: { path: { id: deliverable } },
      }),
    ),
  );

/** Has looked at what would make a deliverable's pictures look better at their rate. */
export const useEase = (deliverable: number) =>
  useChange(["easing"], () =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/easing", { params: { path: { id: deliverable } } }),
    ),
  );

/** Stops that. */
export const useStopEasing = (deliverable: number) =>
  useChange(["easing"], () =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/easing/cancel", {
        params: { path: { id: deliverable } },
      }),
    ),
  );

/** Has heard what is made of a deliverable's sound. */
export const useHear = (deliverable: number) =>
  useChange(["hearing"], () =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/hearing", { params: { path: { id: deliverable } } }),
    ),
  );

/** Stops that. */
export const useStopHearing = (deliverable: number) =>
  useChange(["hearing"], () =>
    unwrap(
      api.POST("/api/crates/deliverables/{id}/hearing/cancel", {
        params: { path: { id: deliverable } },
      }),
    ),
  );

/** Has a run's file played as a player would. */
export const useRehearse = (run: number) =>
  useChange(["rehearsal"], () =>
    unwrap(api.POST("/api/runs/{id}/rehearsal", { params: { path: { id: run } } })),
  );

/** Stops that. */
export const useStopRehearsing = (run: number) =>
  useChange(["rehearsal"], () =>
    unwrap(api.POST("/api/runs/{id}/rehearsal/cancel", { params: { path: { id: run } } })),
  );

/** Has a copy made of a run's file and of what went into its encoder. */
export const useView = (run: number) =>
  useChange(["viewing"], () =>
    unwrap(api.POST("/api/runs/{id}/viewing", { params: { path: { id: run } } })),
  );

/** Stops that. */
export const useStopViewing = (run: number) =>
  useChange(["viewing"], () =>
    unwrap(api.POST("/api/runs/{id}/viewing/cancel", { params: { path: { id: run } } })),
  );
