import { api, type Schemas, unwrap } from "../client";
import { type Done, useChange } from "./change";

/** Makes a crate for each of several specs. */
export const useMakeCrates = (done: Done<Schemas["NewCratesOut"]>) =>
  useChange(
    ["crate"],
    (body: Schemas["NewCrates"]) => unwrap(api.POST("/api/crates/several", { body })),
    done,
  );

/** Runs all of several crates that can be run. */
export const useRunCrates = () =>
  useChange(["crate"], (crates: number[]) =>
    unwrap(api.POST("/api/crates/run", { body: { crates } })),
  );

/** Makes a crate with an item for each line of a sheet. */
export const useMakeFromSheet = (done: Done<Schemas["CratePage"]>) =>
  useChange(
    ["crate"],
    (body: Schemas["NewFromSheet"]) => unwrap(api.POST("/api/crates/sheet", { body })),
    done,
  );

/** Changes the items of a crate as a sheet says. */
export const useLaySheet = (id: number, done: Done<Schemas["CratePage"]>) =>
  useChange(
    ["crate"],
    (body: Schemas["LaySheet"]) =>
      unwrap(api.POST("/api/crates/{id}/sheet", { params: { path: { id } }, body })),
    done,
  );

/** Chooses the same for several items of a crate. */
export const useChooseForMany = (id: number) =>
  useChange(["crate"], (body: Schemas["ChooseForMany"]) =>
    unwrap(api.PATCH("/api/crates/{id}/choices", { params: { path: { id } }, body })),
  );

/** Fills in the names of several items; what is only looked at changes nothing. */
export const useFillNames = (id: number) =>
  useChange(["crate"], (body: Schemas["FillNames"]) =>
    unwrap(api.POST("/api/crates/{id}/names", { params: { path: { id } }, body })),
  );

/** Makes a crate like another, with other masters. */
export const useClone = (id: number, done: Done<Schemas["CratePage"]>) =>
  useChange(
    ["crate"],
    (body: Schemas["CloneIn"]) =>
      unwrap(api.POST("/api/crates/{id}/clones", { params: { path: { id } }, body })),
    done,
  );
