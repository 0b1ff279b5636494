import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** The keys of everything that is asked of the server: one tree, so that a branch can be named. */
export const keys = {
  floor: ["floor"] as const,
  day: ["day"] as const,
  orders: {
    all: ["orders"] as const,
    list: ["orders", "list"] as const,
    one: (id: string, state: string) => ["orders", "one", id, state] as const,
    read: (text: string) => ["orders", "read", text] as const,
  },
  history: {
    all: ["history"] as const,
    page: (query: object) => ["history", query] as const,
  },
  receipts: ["receipts"] as const,
  recipients: ["recipients"] as const,
  zones: ["zones"] as const,
  housekeeping: ["housekeeping"] as const,
  foretold: ["foretold"] as const,
  paces: ["paces"] as const,
  masters: {
    all: ["masters"] as const,
    list: (query: object) => ["masters", "list", query] as const,
    one: (id: number) => ["masters", "one", id] as const,
    traces: (id: number, state: string) => ["masters", "traces", id, state] as const,
    near: (id: number) => ["masters", "near", id] as const,
    takers: (ids: string) => ["masters", "takers", ids] as const,
    productions: ["masters", "productions"] as const,
    unfinished: ["masters", "unfinished"] as const,
    intake: (folder: number, inner: string) => ["masters", "intake", folder, inner] as const,
    intakes: ["masters", "intake"] as const,
  },
  specs: {
    all: ["specs"] as const,
    list: ["specs", "list"] as const,
    refused: ["specs", "refused"] as const,
    one: (id: string, version?: number) => ["specs", "one", id, version] as const,
    compared: (query: string) => ["specs", "compared", query] as const,
  },
  crates: {
    all: ["crates"] as const,
    one: (id: number) => ["crates", "one", id] as const,
    sheet: (asked: object) => ["crates", "sheet", asked] as const,
    alike: (deliverable: number) => ["crates", "alike", deliverable] as const,
    ends: (deliverable: number) => ["crates", "ends", deliverable] as const,
    range: (deliverable: number) => ["crates", "range", deliverable] as const,
    motion: (deliverable: number, place: number, count: number) =>
      ["crates", "motion", deliverable, place, count] as const,
    colour: (deliverable: number) => ["crates", "colour", deliverable] as const,
    framing: (deliverable: number, frame?: number) =>
      ["crates", "framing", deliverable, frame ?? null] as const,
  },
  quality: {
    all: ["quality"] as const,
    one: (run: number) => ["quality", run] as const,
    samples: (run: number, frame: number, x: number, y: number) =>
      ["quality", run, "samples", frame, x, y] as const,
  },
  hardness: {
    all: ["hardness"] as const,
    one: (deliverable: number) => ["hardness", deliverable] as const,
  },
  rehearsals: {
    all: ["rehearsals"] as const,
    one: (run: number) => ["rehearsals", run] as const,
  },
  codecTrials: {
    all: ["codec trials"] as const,
    one: (master: number) => ["codec trials", master] as const,
  },
  viewings: {
    all: ["viewings"] as const,
    one: (run: number) => ["viewings", run] as const,
  },
  easing: {
    all: ["easing"] as const,
    one: (deliverable: number) => ["easing", deliverable] as const,
  },
  hearing: {
    all: ["hearing"] as const,
    one: (deliverable: number) => ["hearing", deliverable] as const,
  },
  // Of one hearing, which does not change.
  meters: (hearing: number, track: number, first: number) =>
    ["meters", hearing, track, first] as const,
  // Asked once: neither what can be written nor what a text says changes under a page.
  vocabulary: ["vocabulary"] as const,
  check: (text: string) => ["check", text] as const,
};

export type Topic =
  | "order"
  | "day"
  | "worker"
  | "master"
  | "run"
  | "crate"
  | "spec"
  | "recipient"
  | "pace"
  | "comparison"
  | "sampling"
  | "easing"
  | "hearing"
  | "rehearsal"
  | "viewing"
  | "codec_trial";

/** What a change of something makes out of date. */
const TOUCHED: Record<Topic, readonly QueryKey[]> = {
  master: [keys.masters.all, keys.crates.all, keys.floor, keys.housekeeping],
  order: [keys.orders.all, keys.floor],
  day: [keys.day, keys.crates.all, keys.floor],
  worker: [keys.day, keys.crates.all, keys.floor, keys.housekeeping],
  run: [keys.crates.all, keys.floor, keys.housekeeping, keys.foretold, keys.day, keys.history.all],
  crate: [
    keys.crates.all,
    keys.hardness.all,
    keys.easing.all,
    keys.hearing.all,
    keys.masters.all,
    keys.floor,
    keys.day,
    keys.receipts,
    keys.housekeeping,
  ],
  recipient: [keys.recipients],
  pace: [keys.paces],
  comparison: [keys.quality.all, keys.foretold],
  sampling: [keys.hardness.all],
  easing: [keys.easing.all],
  hearing: [keys.hearing.all],
  rehearsal: [keys.rehearsals.all],
  viewing: [keys.viewings.all],
  codec_trial: [keys.codecTrials.all],
  spec: [keys.specs.all, keys.crates.all, keys.masters.all, keys.floor],
};

/** Asks again for all that changes of some kinds touch. */
export function touch(client: QueryClient, topics: Iterable<Topic>): Promise<unknown> {
  const out = new Set<QueryKey>();
  for (const topic of topics) for (const key of TOUCHED[topic]) out.add(key);
  return Promise.all([...out].map((queryKey) => client.invalidateQueries({ queryKey })));
}

export const isTopic = (text: string): text is Topic => text in TOUCHED;
