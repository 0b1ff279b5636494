import type { Schemas } from "../api/client";

/** The progress of work of which nothing has been heard yet. */
export const NONE: Schemas["Progress"] = {
  stage: "starting",
  frame: 0,
  speed: 0,
  elapsed: 0,
  share: 0,
  passes: 1,
  together: 1,
  workers: 1,
  pass: 1,
  frames: null,
  remaining: null,
};
