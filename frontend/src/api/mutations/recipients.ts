import { api, type Schemas, unwrap } from "../client";
import { useChange } from "./change";

/** Keeps what is usual for a recipient; null forgets it. */
export const useKeepUsual = (key: string) =>
  useChange(["recipient"], (body: Schemas["UsualSettings"] | null) =>
    unwrap(
      body === null
        ? api.DELETE("/api/recipients/{key}/usual", { params: { path: { key } } })
        : api.PUT("/api/recipients/{key}/usual", { params: { path: { key } }, body }),
    ),
  );
