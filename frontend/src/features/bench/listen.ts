import { type RefObject, useCallback, useEffect, useRef, useState } from "react";

export type Side = "taken" | "made";
const TOLD_EVERY = 100; // milliseconds

/** Left and right of what is taken, and of what is made, of one track of four channels. */
class Pairs {
  private context = new AudioContext();
  private gains: Record<Side, GainNode>;

  constructor(audio: HTMLMediaElement) {
    const source = this.context.createMediaElementSource(audio);
    source.channelCount = 4;
    const split = this.context.createChannelSplitter(4);
    source.connect(split);
    this.gains = { taken: this.pair(split, 0), made: this.pair(split, 2) };
  }

  private pair(split: ChannelSplitterNode, first: number) {
    const join = this.context.createChannelMerger(2);
    split.connect(join, first, 0);
    split.connect(join, first + 1, 1);
    const gain = this.context.createGain();
    join.connect(gain).connect(this.context.destination);
    return gain;
  }

  hear(side: Side, gains: Record<Side, number>) {
    for (const one of ["taken", "made"] as const)
      this.gains[one].gain.value = one === side ? gains[one] : 0;
    void this.context.resume();
  }

  close() {
    void this.context.close();
  }
}

/** By how much either is turned down, so that both are as loud as the quieter; as factors. */
export function evened(taken: number | null, made: number | null): Record<Side, number> {
  const over = taken === null || made === null ? 0 : taken - made;
  return {
    taken: over > 0 ? 10 ** (-over / 20) : 1,
    made: over < 0 ? 10 ** (over / 20) : 1,
  };
}

/** Plays before and after, one switched for the other in place. */
export function useListening(
  audio: RefObject<HTMLMediaElement | null>,
  side: Side,
  gains: Record<Side, number>,
) {
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(0);
  const pairs = useRef<Pairs>(null);
  const { taken, made } = gains;
  useEffect(() => {
    pairs.current?.hear(side, { taken, made });
  }, [side, taken, made]);
  useEffect(
    () => () => {
      pairs.current?.close();
    },
    [],
  );
  useEffect(() => {
    if (!playing) return;
    const timer = setInterval(() => {
      const there = audio.current;
      if (!there) return;
      setAt(there.currentTime);
      if (there.ended) setPlaying(false);
    }, TOLD_EVERY);
    return () => clearInterval(timer);
  }, [playing, audio]);
  const toggle = useCallback(() => {
    const there = audio.current;
    if (!there) return;
    if (playing) {
      there.pause();
    } else {
      pairs.current ??= new Pairs(there);
      pairs.current.hear(side, { taken, made });
      // What cannot be played stays at rest.
      there.play().catch(() => setPlaying(false));
    }
    setPlaying(!playing);
  }, [audio, playing, side, taken, made]);
  const to = useCallback(
    (seconds: number) => {
      const place = Math.max(0, seconds);
      if (audio.current) audio.current.currentTime = place;
      setAt(place);
    },
    [audio],
  );
  return { playing, toggle, at, to };
}
