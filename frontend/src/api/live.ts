import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "./client";
import { isTopic, type Topic, touch } from "./keys";

export type News = { topic: string; id: number; progress?: Schemas["Progress"]; crate?: number };
type Line = "live" | "lost";

const runs = new Map<string, Schemas["Progress"]>();
const watchers = new Set<() => void>();
let line: Line = "live";
const wake = () => watchers.forEach((w) => w());
const watch = (w: () => void) => {
  watchers.add(w);
  return () => watchers.delete(w);
};

/** The newest progress heard of a run or master, before any page is asked again. */
export function useProgress(
  topic: string,
  id: number | undefined,
  known: Schemas["Progress"] | null | undefined,
) {
  const heard = useSyncExternalStore(watch, () => runs.get(`${topic}-${id}`));
  return known ? (heard ?? known) : null;
}

export const useLine = () => useSyncExternalStore(watch, () => line);

/** One stream a browser: the tab that holds the lock listens and tells the others. */
export function useLive() {
  const client = useQueryClient();
  useEffect(() => {
    const channel = new BroadcastChannel("ample-news");
    const stop = new AbortController();
    let pending: number | undefined;
    let changed = new Set<Topic | "all">();
    // Several changes often come together: ask once.
    const askAgain = (topic: Topic | "all") => {
      changed.add(topic);
      pending ??= window.setTimeout(() => {
        pending = undefined;
        const topics = [...changed].filter((t) => t !== "all");
        if (changed.has("all")) void client.invalidateQueries();
        else void touch(client, topics);
        changed = new Set();
      }, 150);
    };
    const hear = (news: News) => {
      if (news.topic === "line") {
        line = news.id ? "live" : "lost";
        // What changed before the line was there, or while it was gone, nobody has told.
        if (news.id) askAgain("all");
        return wake();
      }
      if (news.progress) {
        runs.set(`${news.topic}-${news.id}`, news.progress);
        return wake();
      }
      runs.delete(`${news.topic}-${news.id}`);
      wake();
      askAgain(isTopic(news.topic) ? news.topic : "all");
    };
    channel.onmessage = (e: MessageEvent<News>) => hear(e.data);
    const spread = (news: News) => {
      hear(news);
      channel.postMessage(news);
    };
    void navigator.locks
      .request(
        "ample-news",
        { signal: stop.signal },
        () =>
          new Promise<void>((done) => {
            let source: EventSource;
            let again = 0;
            const open = () => {
              source = new EventSource("/api/events");
              source.onmessage = (e: MessageEvent<string>) => spread(JSON.parse(e.data) as News);
              source.onopen = () => spread({ topic: "line", id: 1 });
              source.onerror = () => {
                spread({ topic: "line", id: 0 });
                // An answer other than a stream ends a source for good.
                if (source.readyState === EventSource.CLOSED) again = window.setTimeout(open, 3000);
              };
            };
            open();
            stop.signal.addEventListener("abort", () => {
              window.clearTimeout(again);
              source.close();
              done();
            });
          }),
      )
      .catch(() => undefined);
    return () => {
      stop.abort();
      channel.close();
      window.clearTimeout(pending);
    };
  }, [client]);
}
