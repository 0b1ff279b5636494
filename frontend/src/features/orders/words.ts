import type { Schemas } from "../../api/client";

export type State = Schemas["OrderItemOut"]["state"];
export const STATES: State[] = ["asks", "works", "waits", "done", "same", "left out"];
const SAID: Record<State, string> = {
  asks: "asking",
  works: "at work",
  waits: "waiting",
  done: "done",
  same: "sent before",
  "left out": "left out",
};

export const said = (state: State) => SAID[state];

/** How many are in which state, in words; empty where nothing has arrived. */
export const counted = (counts: Record<string, number>) =>
  STATES.filter((s) => counts[s])
    .map((s) => `${counts[s]} ${SAID[s]}`)
    .join(", ");
