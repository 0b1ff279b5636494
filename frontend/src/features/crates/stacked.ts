import { type RefObject, useCallback, useEffect } from "react";

export const LOOKS = ["beside", "wipe", "one at a time", "difference"] as const;
export type Look = (typeof LOOKS)[number];
const AT_REST = ["loadeddata", "seeked"];
const DOUBLED = 3; // times that a difference is doubled: amplified eight times

/** How the two pictures of a copy are shown. */
export type Shown = {
  look: Look;
  /** Share of the width up to which the upper one is seen in a wipe. */
  share: number;
  /** Which is seen where it is one at a time. */
  lower: boolean;
};

/** The size of what is drawn, of pictures of a size. */
export const drawn = (look: Look, width: number, height: number): [number, number] =>
  look === "beside" ? [2 * width, height] : [width, height];

/** Draws the two pictures of a frame, of which one lies above the other. */
export function draw(
  to: CanvasRenderingContext2D,
  from: CanvasImageSource,
  [width, height]: [number, number],
  { look, share, lower }: Shown,
) {
  const picture = (row: 0 | 1, left = 0, first = 0, across = width) => {
    if (across > 0)
      to.drawImage(from, first, row * height, across, height, left + first, 0, across, height);
  };
  to.globalCompositeOperation = "source-over";
  if (look === "beside") {
    picture(0);
    picture(1, width);
    return;
  }
  if (look === "one at a time") {
    picture(lower ? 1 : 0);
    return;
  }
  picture(look === "wipe" ? 1 : 0);
  if (look === "wipe") {
    picture(0, 0, 0, Math.round(share * width));
    return;
  }
  to.globalCompositeOperation = "difference";
  picture(1);
  to.globalCompositeOperation = "lighter";
  for (let n = 0; n < DOUBLED; n++) to.drawImage(to.canvas, 0, 0);
  to.globalCompositeOperation = "source-over";
}

/** Draws every frame of a video as it comes; gives what draws the present one again. */
export function useDrawn(
  video: RefObject<HTMLVideoElement | null>,
  canvas: RefObject<HTMLCanvasElement | null>,
  size: [number, number],
  shown: Shown,
  seen: (seconds: number) => void,
) {
  const [width, height] = size;
  const { look, share, lower } = shown;
  const now = useCallback(() => {
    const to = canvas.current?.getContext("2d");
    if (to && video.current && video.current.readyState >= HTMLMediaElement.HAVE_CURRENT_DATA)
      draw(to, video.current, [width, height], { look, share, lower });
  }, [video, canvas, width, height, look, share, lower]);
  useEffect(() => {
    now();
    const from = video.current;
    if (!from) return;
    let waits = 0;
    const next = (_: number, frame: VideoFrameCallbackMetadata) => {
      now();
      seen(frame.mediaTime);
      waits = from.requestVideoFrameCallback(next);
    };
    waits = from.requestVideoFrameCallback(next);
    // A place that is gone to at rest is not always told as a frame.
    for (const event of AT_REST) from.addEventListener(event, now);
    return () => {
      from.cancelVideoFrameCallback(waits);
      for (const event of AT_REST) from.removeEventListener(event, now);
    };
  }, [video, now, seen]);
}
