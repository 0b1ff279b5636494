import { useMutation, useQueryClient } from "@tanstack/react-query";
import { touch, type Topic } from "../keys";

export type Done<Out, In = unknown> = { onSuccess?: (made: Out, asked: In) => unknown };

/** A change: when it has ended, well or not, all that it touches is asked for again. */
export function useChange<In = void, Out = unknown>(
  topics: Topic[],
  mutationFn: (asked: In) => Promise<Out>,
  done: Done<Out, In> = {},
) {
  const client = useQueryClient();
  return useMutation({ mutationFn, ...done, onSettled: () => touch(client, topics) });
}
