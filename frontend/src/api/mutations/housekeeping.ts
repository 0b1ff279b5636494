import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, unwrap } from "../client";
import { keys } from "../keys";

/** Tidies up now. */
export function useTidy() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(api.POST("/api/housekeeping/tidy")),
    onSettled: () => client.invalidateQueries({ queryKey: keys.housekeeping }),
  });
}
