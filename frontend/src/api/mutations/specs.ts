import { useMutation } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../client";
import { type Done, useChange } from "./change";

type Written = Record<string, unknown>;

/** Reads the files of specs again. */
export const useReadSpecFiles = () =>
  useChange(["spec"], () => unwrap(api.POST("/api/specs/read")));

/** Saves a spec: a draft in its place, else as a new version over the one it is based on. */
export const useSaveSpec = (done: Done<Schemas["SpecPage"]>) =>
  useChange(
    ["spec"],
    (body: { document: Written; base: number | null }) => unwrap(api.POST("/api/specs", { body })),
    done,
  );

/** Drops a draft. */
export const useDropDraft = (id: string, done: Done<unknown>) =>
  useChange(
    ["spec"],
    (version: number) =>
      unwrap(api.DELETE("/api/specs/{id}", { params: { path: { id }, query: { version } } })),
    done,
  );

/** Fetches a version of a spec, to begin with a copy of it. */
export const useFetchSpec = (done: Done<Schemas["SpecPage"]>) =>
  useMutation({
    mutationFn: ({ id, version }: { id: string; version?: number }) =>
      unwrap(api.GET("/api/specs/{id}", { params: { path: { id }, query: { version } } })),
    ...done,
  });

/** Reads a spec that is written as text. */
export const useReadText = (done: Done<Schemas["Checked"]>) =>
  useMutation({
    mutationFn: ({ text, name }: { text: string; name: string }) =>
      unwrap(api.POST("/api/specs/check", { body: { document: null, text, name } })),
    ...done,
  });

/** Asks which rules a master's facts suggest. */
export const useRulesFromMaster = (done: Done<Schemas["Trial"]>) =>
  useMutation({
    mutationFn: (id: number) =>
      unwrap(api.GET("/api/specs/from-master/{id}", { params: { path: { id } } })),
    ...done,
  });

/** Has a repair made in a document. */
export const useRepair = (done: Done<Schemas["DocumentOut"]>) =>
  useMutation({
    mutationFn: (body: { document: Written; changes: Schemas["RepairOut"]["changes"] }) =>
      unwrap(api.POST("/api/specs/repair", { body })),
    ...done,
  });
