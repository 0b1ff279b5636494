import { type RefObject, useCallback, useEffect, useRef, useState } from "react";

const SPEEDS = [1, 2, 4, 8];

/** Channels of the playing copy, each of which can be heard or not. */
class Channels {
  private context = new AudioContext();
  private gains: GainNode[] = [];

  constructor(
    video: HTMLVideoElement,
    readonly count: number,
  ) {
    const source = this.context.createMediaElementSource(video);
    source.channelCount = count;
    const split = this.context.createChannelSplitter(count);
    const join = this.context.createGain();
    source.connect(split);
    // Each channel is heard in the middle: what is looked for is what it carries, not where it
    // sits.
    for (let n = 0; n < count; n++) {
      const gain = this.context.createGain();
      split.connect(gain, n);
      gain.connect(join);
      this.gains.push(gain);
    }
    join.connect(this.context.destination);
  }

  hear(heard: boolean[]) {
    const loud = Math.max(1, Math.sqrt(heard.filter(Boolean).length));
    this.gains.forEach((g, n) => {
      g.gain.value = heard[n] ? 1 / loud : 0;
    });
    void this.context.resume();
  }
}

/**
 * Shuttling: the proxy plays forwards at a speed or steps backwards; at rest the page shows
 * the master's own frame.
 */
export function useShuttle(
  video: RefObject<HTMLVideoElement | null>,
  rate: number,
  frame: number,
  to: (n: number) => void,
  last: number,
  channels: number,
) {
  const [speed, setSpeed] = useState(0);
  const [heard, setHeard] = useState<boolean[]>(() => Array.from({ length: channels }, () => true));
  const sound = useRef<Channels>(null);
  const at = useRef(frame);
  useEffect(() => {
    at.current = frame;
  }, [frame]);
  useEffect(() => {
    setHeard((h) => (h.length === channels ? h : Array.from({ length: channels }, () => true)));
  }, [channels]);
  useEffect(() => {
    sound.current?.hear(heard);
  }, [heard]);

  const shuttle = useCallback(
    (next: number) => {
      const film = video.current;
      if (!film) return;
      if (next > 0) {
        if (!sound.current && channels > 0) {
          sound.current = new Channels(film, channels);
          sound.current.hear(heard);
        }
        if (speed <= 0) film.currentTime = (at.current + 0.5) / rate;
        film.playbackRate = next;
        void film.play();
      } else {
        film.pause();
      }
      setSpeed(next);
    },
    [video, speed, rate, channels, heard],
  );

  useEffect(() => {
    const film = video.current;
    if (!speed || !film) return;
    let live = true;
    let before = performance.now();
    const tick = (now: number) => {
      if (!live) return;
      let place = Math.floor(film.currentTime * rate + 1e-6);
      if (speed < 0) {
        const back = at.current - ((now - before) / 1000) * rate * -speed;
        if (back < at.current - 1 || back <= 0) {
          place = Math.max(0, Math.round(back));
          if (!film.seeking) film.currentTime = (place + 0.5) / rate;
          before = now;
          at.current = place;
        } else {
          place = at.current;
        }
      }
      to(Math.min(last, place));
      if ((speed > 0 && film.ended) || (speed < 0 && place <= 0)) {
        film.pause();
        setSpeed(0);
        return;
      }
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
    return () => {
      live = false;
    };
  }, [speed, video, rate, to, last]);

  const faster = (way: 1 | -1) => {
    const now = speed * way > 0 ? SPEEDS.indexOf(Math.abs(speed)) : -1;
    shuttle(way * (SPEEDS[Math.min(SPEEDS.length - 1, now + 1)] ?? 1));
  };
  return { speed, shuttle, faster, heard, setHeard };
}
