import { useEffect, useState } from "react";

const PAUSE = 300; // ms without a change

/** The value as it was when it last rested: what is typed is not asked about letter by letter. */
export function usePaused<T>(value: T): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const rest = window.setTimeout(() => setRested(value), PAUSE);
    return () => window.clearTimeout(rest);
  }, [value]);
  return rested;
}
