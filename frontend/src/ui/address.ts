import { useCallback, useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router-dom";

const PAUSE = 250; // ms; a browser takes only so many changes of its address at once

/**
 * A state that stands in the address, so that it is there again after a reload, and goes along
 * when the address is passed on. What is usual is left out.
 */
export function useAddress(name: string, usual: string): [string, (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const inAddress = params.get(name) ?? usual;
  const [value, setValue] = useState(inAddress);
  const seen = useRef(inAddress);
  // What was written and has not arrived yet: on a slow machine more than one.
  const written = useRef<string[]>([]);
  const writing = useRef<number | undefined>(undefined);
  useEffect(() => () => window.clearTimeout(writing.current), []);
  useEffect(() => {
    // Whoever goes to another address of the same page, or back, gets what stands there.
    if (inAddress === seen.current) return;
    seen.current = inAddress;
    const own = written.current.indexOf(inAddress);
    written.current = own < 0 ? [] : written.current.slice(own + 1);
    if (own >= 0) return;
    window.clearTimeout(writing.current);
    setValue(inAddress);
  }, [inAddress]);
  const put = useCallback(
    (next: string) => {
      setValue(next);
      window.clearTimeout(writing.current);
      const page = window.location.pathname;
      writing.current = window.setTimeout(() => {
        // Who has gone to another page meanwhile is not called back, though this one still shows
        // until the other has arrived.
        if (window.location.pathname !== page) return;
        const now = new URLSearchParams(window.location.search);
        if (next === usual) now.delete(name);
        else now.set(name, next);
        if (next !== (written.current.at(-1) ?? seen.current)) written.current.push(next);
        setParams(now, { replace: true });
      }, PAUSE);
    },
    [name, usual, setParams],
  );
  return [value, put];
}

/** The same of one of a few words; anything else in the address counts as the usual one. */
export function useChoiceInAddress<T extends string>(
  name: string,
  choices: readonly T[],
  usual: T,
): [T, (value: T) => void] {
  const [value, put] = useAddress(name, usual);
  return [choices.find((c) => c === value) ?? usual, put];
}
