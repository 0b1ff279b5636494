import { ChevronLeft, ChevronRight, Pause, Play } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { type Schemas } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Still } from "../../ui/Viewer";
import { FIELDS, type Ground, GROUNDS } from "../../api/pictures";
import { fps } from "../../ui/format";
import { useKeys, type Key } from "../../ui/keys";
import { Label } from "./Label";
import { GUIDES, Guides } from "./guides";
import { useShuttle } from "./play";
import { Button } from "../../ui/Button";
import { useOrderProxy } from "../../api/mutations/masters";

export type Marks = { first: number | null; last: number | null };
type Props = {
  master: Schemas["MasterPage"];
  frame: number;
  to: (n: number) => void;
  last: number;
  keys: Key[];
  marks: Marks;
  setMarks: (m: Marks) => void;
};

export function Deck({ master, frame, to, last, keys, marks, setMarks }: Props) {
  const video = useRef<HTMLVideoElement>(null);
  const [field, setField] = useState<(typeof FIELDS)[number]>("woven");
  const [ground, setGround] = useState<Ground>("checker");
  const [guides, setGuides] = useState("none");
  const [whole, setWhole] = useState(true);
  const { proxy } = master;
  const ready = proxy.state === "ready";
  const { speed, shuttle, faster, heard, setHeard } = useShuttle(
    video,
    fps(master.rate),
    frame,
    to,
    last,
    proxy.channels,
  );
  const order = useOrderProxy(master.id);
  const ask = order.mutate;
  const wanted = proxy.state === "none" && master.state === "ready" && !master.still;
  useEffect(() => {
    if (wanted) ask();
  }, [wanted, ask]);
  const stop = () => shuttle(0);
  const step = (n: number) => {
    stop();
    to(n);
  };
  const toggle = (n: number, alone: boolean) =>
    setHeard(heard.map((h, k) => (alone ? k === n : k === n ? !h : h)));
  useKeys([
    ...keys
      .filter((k) => k.key.length > 1)
      .map((k) => ({
        ...k,
        run: () => {
          stop();
          k.run();
        },
      })),
    {
      key: "ArrowUp",
      does: "one second on",
      run: () => step(frame + Math.round(fps(master.rate))),
    },
    {
      key: "ArrowDown",
      does: "one second back",
      run: () => step(frame - Math.round(fps(master.rate))),
    },
    { key: " ", does: "play or stop", run: () => (speed ? stop() : faster(1)) },
    { key: "l", does: "play on; again for faster", run: () => faster(1) },
    { key: "k", does: "stop", run: stop },
    { key: "j", does: "play back; again for faster", run: () => faster(-1) },
    { key: "i", does: "mark in", run: () => setMarks({ ...marks, first: frame }) },
    { key: "o", does: "mark out", run: () => setMarks({ ...marks, last: frame }) },
    { key: "x", does: "clear the marks", run: () => setMarks({ first: null, last: null }) },
    {
      key: "g",
      does: "next guides",
      run: () => setGuides(GUIDES[(GUIDES.indexOf(guides) + 1) % GUIDES.length] ?? "none"),
    },
    { key: "z", does: "sample for sample, or the whole picture", run: () => setWhole((w) => !w) },
    {
      key: "f",
      does: "next field view",
      run: () => setField(FIELDS[(FIELDS.indexOf(field) + 1) % 3] ?? "woven"),
    },
    {
      key: "a",
      does: "next ground under transparency",
      run: () => setGround(GROUNDS[(GROUNDS.indexOf(ground) + 1) % 5] ?? "checker"),
    },
    {
      key: "m",
      does: "mute or hear all channels",
      run: () => setHeard(heard.map(() => !heard.some(Boolean))),
    },
  ]);
  const look = new URLSearchParams({
    width: whole ? "960" : "0",
    field,
    alpha: ground,
    v: [master.mark, ...master.correctable.filter((c) => c.corrected).map((c) => c.now)].join("/"),
  });
  const src = `/api/masters/${master.id}/frames/${frame}?${look.toString()}`;
  const aspect = master.display_aspect ?? 16 / 9;
  const moving = speed !== 0 && ready;
  return (
    <div>
      {master.has_picture &&
        (whole ? (
          <div className="grey-wall flex max-h-[26rem] items-center justify-center p-1">
            <div
              className="relative"
              style={{ aspectRatio: String(aspect), width: `min(100%, calc(25.5rem * ${aspect}))` }}
            >
              {!moving && <Still className="h-full w-full !p-0" src={src} alt={`frame ${frame}`} />}
              <video
                ref={video}
                className={moving ? "absolute inset-0 h-full w-full" : "hidden"}
                src={ready ? `/api/masters/${master.id}/proxy` : undefined}
                preload="auto"
                aria-label="playing"
              />
              <Guides kind={guides} aspect={aspect} />
            </div>
          </div>
        ) : (
          <div
            className="grey-wall max-h-[26rem] overflow-auto p-1"
            role="region"
            aria-label="sample for sample"
            // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- it scrolls by keys
            tabIndex={0}
          >
            <Still
              className="!inline-block !p-0 [&_img]:!max-w-none"
              src={src}
              alt={`frame ${frame}, sample for sample`}
            />
          </div>
        ))}
      {!master.has_picture && (
        <video
          ref={video}
          className="hidden"
          src={ready ? `/api/masters/${master.id}/proxy` : undefined}
          preload="auto"
        />
      )}
      <div className="flex flex-wrap items-center gap-2 py-1">
        <Button aria-label="one frame back" onClick={() => step(frame - 1)}>
          <ChevronLeft size={14} />
        </Button>
        <Button
          aria-label={speed ? "stop" : "play"}
          disabled={!ready}
          onClick={() => (speed ? stop() : faster(1))}
        >
          {speed ? <Pause size={14} /> : <Play size={14} />}
        </Button>
        <Button aria-label="one frame on" onClick={() => step(frame + 1)}>
          <ChevronRight size={14} />
        </Button>
        <Label name="timecode" master={master} frame={frame} to={step} />
        <span className="figure muted">
          frame {frame} of {last + 1}
          {speed ? `, ${speed}x` : ""}
        </span>
        <span className="muted" role="status">
          {(proxy.state === "waiting" || proxy.state === "making") &&
            `making the proxy: ${Math.round(100 * proxy.share)} %`}
          {proxy.state === "failed" && `No proxy: ${proxy.error?.what ?? ""}`}
        </span>
        {proxy.state === "failed" && <Button onClick={() => ask()}>Try again</Button>}
        <span className="ml-auto flex flex-wrap items-center gap-2">
          {master.has_picture && (
            <Choice label="guides" values={GUIDES} value={guides} set={setGuides} />
          )}
          {master.interlaced && (
            <Choice
              label="field"
              values={[...FIELDS]}
              value={field}
              set={(v) => setField(v as typeof field)}
            />
          )}
          {master.alpha && (
            <Choice
              label="ground"
              values={[...GROUNDS]}
              value={ground}
              set={(v) => setGround(v as typeof ground)}
            />
          )}
          {master.has_picture && (
            <Button aria-pressed={!whole} onClick={() => setWhole((w) => !w)}>
              {whole ? "1:1" : "whole picture"}
            </Button>
          )}
        </span>
      </div>
      {ready && proxy.channels > 0 && (
        <div
          role="group"
          aria-label="Channels heard"
          className="flex flex-wrap items-center gap-1 pb-1"
        >
          <span className="muted">hear</span>
          {heard.map((on, n) => (
            <button
              key={n}
              className={`btn btn-xs ${on ? "btn-secondary" : "line-through"}`}
              aria-pressed={on}
              title="Shift-click: this one alone"
              onClick={(e) => toggle(n, e.shiftKey)}
            >
              ch {n + 1}
            </button>
          ))}
          <Button onClick={() => setHeard(heard.map(() => !heard.some(Boolean)))}>
            {heard.some(Boolean) ? "mute all" : "hear all"}
          </Button>
        </div>
      )}
    </div>
  );
}

/** The frame's timecode, which can be typed over; the server reads it. */
