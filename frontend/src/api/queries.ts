import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

const OFTEN = 20_000;

export const useFloor = () =>
  useQuery({
    queryKey: keys.floor,
    queryFn: () => unwrap(api.GET("/api/floor")),
    refetchInterval: OFTEN,
  });

/** The day sheet; what is foretold moves with the clock. */
export const useDay = () =>
  useQuery({
    queryKey: keys.day,
    queryFn: () => unwrap(api.GET("/api/day")),
    refetchInterval: OFTEN / 4,
  });

/** Orders that stand. */
export const useOrders = () =>
  useQuery({ queryKey: keys.orders.list, queryFn: () => unwrap(api.GET("/api/orders")) });

type OrderState = Schemas["OrderItemOut"]["state"];

/** An order, with what arrived under it; the last one until another comes. */
export const useOrder = (id: string, state?: OrderState) =>
  useQuery({
    queryKey: keys.orders.one(id, state ?? ""),
    enabled: id !== "",
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(api.GET("/api/orders/{id}", { params: { path: { id }, query: { state } } })),
  });

/** What an order says, or what is wrong with it. */
export const useReadOrder = (
  body: { text: string } | { document: Record<string, unknown> },
  enabled: boolean,
) =>
  useQuery({
    enabled,
    queryKey: keys.orders.read(JSON.stringify(body)),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(api.POST("/api/orders/read", { body: { text: null, document: null, ...body } })),
  });

export type HistoryQuery = {
  words?: string;
  state?: "" | "done" | "failed" | "cancelled";
  codec?: string;
  since?: string;
  until?: string;
  limit?: number;
};

/** Runs that have ended. */
export const useHistory = (query: HistoryQuery) =>
  useQuery({
    queryKey: keys.history.page(query),
    placeholderData: keepPreviousData,
    queryFn: () => unwrap(api.GET("/api/runs/history", { params: { query } })),
  });

export const useReceipts = () =>
  useQuery({ queryKey: keys.receipts, queryFn: () => unwrap(api.GET("/api/receipts")) });

/** The recipients, with what is usual for each. */
export const useRecipients = () =>
  useQuery({ queryKey: keys.recipients, queryFn: () => unwrap(api.GET("/api/recipients")) });

/** The time zones that may be chosen, which do not change under a page. */
export const useZones = () =>
  useQuery({
    queryKey: keys.zones,
    staleTime: Infinity,
    queryFn: () => unwrap(api.GET("/api/recipients/zones")),
  });

export const useHousekeeping = () =>
  useQuery({ queryKey: keys.housekeeping, queryFn: () => unwrap(api.GET("/api/housekeeping")) });

/** Masters that are nearly the same as one, and what tells them apart. */
export const useNear = (id: number, enabled = true) =>
  useQuery({
    queryKey: keys.masters.near(id),
    enabled,
    queryFn: () => unwrap(api.GET("/api/masters/{id}/near", { params: { path: { id } } })),
  });

/** How far off what was foretold of runs was. */
export const useForetold = () =>
  useQuery({ queryKey: keys.foretold, queryFn: () => unwrap(api.GET("/api/foretold")) });

/** How fast the paces of encoders are on the machine that encodes. */
export const usePaces = (enabled: boolean) =>
  useQuery({ queryKey: keys.paces, enabled, queryFn: () => unwrap(api.GET("/api/paces")) });

/** A run's file and what went into its encoder, to be played together. */
export const useViewing = (run: number) =>
  useQuery({
    queryKey: keys.viewings.one(run),
    queryFn: () => unwrap(api.GET("/api/runs/{id}/viewing", { params: { path: { id: run } } })),
  });

/** How near what a run made stays to its master, frame by frame. */
export const useQuality = (run: number) =>
  useQuery({
    queryKey: keys.quality.one(run),
    queryFn: () => unwrap(api.GET("/api/runs/{id}/quality", { params: { path: { id: run } } })),
  });

/** Samples about a place of a frame, before coding and after; the last ones until others come. */
export const useSamples = (run: number, frame: number, x: number, y: number) =>
  useQuery({
    queryKey: keys.quality.samples(run, frame, x, y),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/runs/{id}/samples/{frame}", {
          params: { path: { id: run, frame }, query: { x, y } },
        }),
      ),
  });

type MastersQuery = { q?: string; limit?: number; production?: string; ids?: string };

/** Masters that fit a query; what was there stays until the next answer comes. */
export const useMasters = (query: MastersQuery, enabled = true) =>
  useQuery({
    queryKey: keys.masters.list(query),
    placeholderData: keepPreviousData,
    enabled,
    queryFn: () => unwrap(api.GET("/api/masters", { params: { query } })),
  });

export const useMaster = (id: number, enabled = true) =>
  useQuery({
    queryKey: keys.masters.one(id),
    enabled,
    queryFn: () => unwrap(api.GET("/api/masters/{id}", { params: { path: { id } } })),
  });

/** How all specs in force would take some masters, by their numbers with commas between. */
export const useTakers = (masters: string) =>
  useQuery({
    queryKey: keys.masters.takers(masters),
    placeholderData: keepPreviousData,
    enabled: masters !== "",
    queryFn: () => unwrap(api.GET("/api/takers", { params: { query: { masters } } })),
  });

/** What would come of a sheet, for a crate or a new one to a spec. */
export const useSheet = (asked: Schemas["SheetIn"]) =>
  useQuery({
    queryKey: keys.crates.sheet(asked),
    enabled: asked.text.trim() !== "",
    retry: false,
    queryFn: () => unwrap(api.POST("/api/sheets", { body: asked })),
  });

/** The deliverables that may take over what is chosen for one. */
export const useAlike = (deliverable: number) =>
  useQuery({
    queryKey: keys.crates.alike(deliverable),
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/alike", {
          params: { path: { id: deliverable } },
        }),
      ),
  });

export const useProductions = () =>
  useQuery({
    queryKey: keys.masters.productions,
    queryFn: () => unwrap(api.GET("/api/masters/productions")),
  });

export const useSpecs = () =>
  useQuery({ queryKey: keys.specs.list, queryFn: () => unwrap(api.GET("/api/specs")) });

/** A version of a spec; the newest where none is named. One that is being edited is asked once. */
export const useSpec = (id: string | undefined, version?: number, once = false) =>
  useQuery({
    queryKey: keys.specs.one(id ?? "", version),
    enabled: id !== undefined,
    ...(once ? { staleTime: Infinity } : {}),
    queryFn: () =>
      unwrap(
        api.GET("/api/specs/{id}", { params: { path: { id: id ?? "" }, query: { version } } }),
      ),
  });

export const useCrate = (id: number) =>
  useQuery({
    queryKey: keys.crates.one(id),
    queryFn: () => unwrap(api.GET("/api/crates/{id}", { params: { path: { id } } })),
    refetchInterval: OFTEN,
  });

/** How a deliverable's picture is framed, and how it could be. */
export const useColour = (deliverable: number) =>
  useQuery({
    queryKey: keys.crates.colour(deliverable),
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/colour", {
          params: { path: { id: deliverable } },
        }),
      ),
  });
export const useHardness = (deliverable: number) =>
  useQuery({
    queryKey: keys.hardness.one(deliverable),
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/hardness", {
          params: { path: { id: deliverable } },
        }),
      ),
  });
/** What would make a deliverable's pictures look better at their rate. */
export const useEasing = (deliverable: number) =>
  useQuery({
    queryKey: keys.easing.one(deliverable),
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/easing", {
          params: { path: { id: deliverable } },
        }),
      ),
  });
/** What is made of a deliverable's sound, and what was heard of it. */
export const useHearing = (deliverable: number) =>
  useQuery({
    queryKey: keys.hearing.one(deliverable),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/hearing", {
          params: { path: { id: deliverable } },
        }),
      ),
  });

/** Codecs tried on a part of a master. */
export const useCodecTrial = (master: number) =>
  useQuery({
    queryKey: keys.codecTrials.one(master),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(api.GET("/api/masters/{id}/codec-trial", { params: { path: { id: master } } })),
  });

/** How a run's file plays. */
export const useRehearsal = (run: number) =>
  useQuery({
    queryKey: keys.rehearsals.one(run),
    placeholderData: keepPreviousData,
    queryFn: () => unwrap(api.GET("/api/runs/{id}/rehearsal", { params: { path: { id: run } } })),
  });

/** A minute of levels of a track that was heard; `first` counts tenths of a second. */
export const useMeters = (deliverable: number, hearing: number, track: number, first: number) =>
  useQuery({
    queryKey: keys.meters(hearing, track, first),
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/hearing/{track}/meters", {
          params: { path: { id: deliverable, track }, query: { first } },
        }),
      ),
  });
export const useFraming = (deliverable: number, frame?: number) =>
  useQuery({
    queryKey: keys.crates.framing(deliverable, frame),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/framing", {
          params: { path: { id: deliverable }, query: { frame } },
        }),
      ),
  });

/** What stands before and after a deliverable's programme. */
export const useEnds = (deliverable: number) =>
  useQuery({
    queryKey: keys.crates.ends(deliverable),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/ends", { params: { path: { id: deliverable } } }),
      ),
  });

/** What a deliverable takes of its master. */
export const useRange = (deliverable: number) =>
  useQuery({
    queryKey: keys.crates.range(deliverable),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/range", { params: { path: { id: deliverable } } }),
      ),
  });

/** How a deliverable's picture moves, and which frames so many places from one on show. */
export const useMotion = (deliverable: number, place: number, count: number) =>
  useQuery({
    queryKey: keys.crates.motion(deliverable, place, count),
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        api.GET("/api/crates/deliverables/{id}/motion", {
          params: { path: { id: deliverable }, query: { place, count } },
        }),
      ),
  });
