import { api, type Schemas, unwrap } from "../client";
import { type Done, useChange } from "./change";

type Document = Record<string, unknown>;

/** Keeps an order, as plain data or as text. */
export const useKeepOrder = (done: Done<Schemas["OrderPage"]>) =>
  useChange(
    ["order"],
    (body: { document: Document } | { text: string }) =>
      unwrap(api.PUT("/api/orders", { body: { document: null, text: null, ...body } })),
    done,
  );

/** Puts an order on, or off. */
export const useSwitchOrder = () =>
  useChange(["order"], ({ id, on }: { id: string; on: boolean }) =>
    unwrap(api.POST("/api/orders/{id}/switch", { params: { path: { id } }, body: { on } })),
  );

/** Forgets an order that is off. */
export const useForgetOrder = (done: Done<Schemas["OrderList"]>) =>
  useChange(
    ["order"],
    (id: string) => unwrap(api.DELETE("/api/orders/{id}", { params: { path: { id } } })),
    done,
  );

/** Says what an order would do with masters; nothing is kept. */
export const useTryOrder = () =>
  useChange([], (body: { document: Document; masters: number[] }) =>
    unwrap(api.POST("/api/orders/try", { body: { text: null, ...body } })),
  );

/** Answers what an item of an order asks. */
export const useAnswer = () =>
  useChange(
    ["order", "crate"],
    ({ id, key, fields }: { id: number; key?: string; fields?: Record<string, string> }) =>
      unwrap(
        api.POST("/api/orders/items/{id}/answer", {
          params: { path: { id } },
          body: { key: key ?? "", fields: fields ?? {} },
        }),
      ),
  );
