import { useSyncExternalStore } from "react";
import { Upload } from "tus-js-client";

export type Sending = {
  key: string;
  name: string;
  sent: number;
  size: number;
  state: "sending" | "paused" | "failed" | "done";
  error?: string;
  stop: () => void;
  go: () => void;
};

let coming: Sending[] = [];
const watchers = new Set<() => void>();
const change = (key: string, part: Partial<Sending>) => {
  coming = coming.map((c) => (c.key === key ? { ...c, ...part } : c));
  watchers.forEach((w) => w());
};

/**
 * Sends a file in pieces; a dropped line is tried again, and a reload goes on where it stood when
 * the file is chosen again.
 */
export function send(file: File, done: () => void) {
  const key = `${file.name}-${file.size}-${Date.now()}`;
  const upload = new Upload(file, {
    endpoint: "/api/uploads",
    chunkSize: 8 * 2 ** 20,
    retryDelays: [0, 500, 1500, 4000, 8000, 15000],
    metadata: { filename: file.name },
    removeFingerprintOnSuccess: true,
    onProgress: (sent, size) => change(key, { sent, size }),
    onError: (error) => change(key, { state: "failed", error: reason(error) }),
    onSuccess: () => {
      change(key, { state: "done" });
      window.setTimeout(() => {
        coming = coming.filter((c) => c.key !== key);
        watchers.forEach((w) => w());
      }, 1500);
      done();
    },
  });
  const go = () => {
    change(key, { state: "sending", error: undefined });
    upload.start();
  };
  coming = [
    ...coming,
    {
      key,
      name: file.name,
      sent: 0,
      size: file.size,
      state: "sending",
      go,
      stop: () => {
        void upload.abort();
        change(key, { state: "paused" });
      },
    },
  ];
  watchers.forEach((w) => w());
  void upload.findPreviousUploads().then((before) => {
    const last = before[0];
    if (last) upload.resumeFromPreviousUpload(last);
    upload.start();
  });
}

/** What the server said, where it said something. */
function reason(error: Error): string {
  const body = (
    error as { originalResponse?: { getBody(): string } | null }
  ).originalResponse?.getBody();
  try {
    const said = JSON.parse(body ?? "") as { detail?: string; way_out?: string };
    if (said.detail) return `${said.detail} ${said.way_out ?? ""}`;
  } catch {
    /* no answer in JSON: the line is down */
  }
  return "The line dropped. What arrived is kept: go on when it is back.";
}

export const useUploads = () =>
  useSyncExternalStore(
    (w) => {
      watchers.add(w);
      return () => watchers.delete(w);
    },
    () => coming,
  );
