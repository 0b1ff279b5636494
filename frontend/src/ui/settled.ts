import { useState } from "react";

/** The value as it was when things were last settled. */
export function useSettled<T>(value: T, settled: boolean): T {
  const [kept, setKept] = useState(value);
  if (settled && kept !== value) setKept(value);
  return settled ? value : kept;
}
