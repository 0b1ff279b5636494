import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import { touch } from "../../api/keys";

export type Choice = { property: string; value: string | null };

/** Chooses a value for a deliverable; null goes back to what is planned. */
export function useChoose(deliverable: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (choice: Choice) =>
      unwrap(
        api.PATCH("/api/crates/deliverables/{id}", {
          params: { path: { id: deliverable } },
          body: choice,
        }),
      ),
    onSettled: () => touch(client, ["crate"]),
  });
}
