type Seen = { id: number; mark: string };

/**
 * The address of a frame of a master; it changes with the master's bytes, so that a browser never
 * shows an older file's.
 */
export function masterFrame(master: Seen, frame: number, width: number): string {
  return `/api/masters/${master.id}/frames/${frame}?width=${width}&v=${master.mark}`;
}
