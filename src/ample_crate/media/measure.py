"""Facts measured by decoding a file whole. Runs inside the child process.

Measuring starts from the bytes alone: it never sees the route that made the file.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from fractions import Fraction
from math import ceil
from typing import Any

import av
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.codec.context import ThreadType
from av.packet import Packet
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.errors import BadMedia
from ..core.facts import Facts
from ..core.properties import track_key
from ..core.values import Value
from . import lines
from .filters import Filtered, sound_graph
from .read import declared, open_media

Progress = Callable[[dict[str, Any]], None]
# A picture rate is called constant where no one-second window strays further than this from the average.
CONSTANT_WITHIN = Fraction(3, 100)
LOOK_EVERY = 12  # frames from one look at the fields to the next


def answer(progress: Progress, path: str) -> dict[str, Any]:
    """Decode the whole file: {facts, seconds, notes, broken}."""
    began = time.monotonic()
    with open_media(path) as container:
        facts = declared(container, path)
        picture = _Picture(container.streams.video[0]) if container.streams.video else None
        tracks = [_Sound(stream) for stream in container.streams.audio]
        by_index = {t.stream.index: t for t in tracks}
        total = float(facts.fraction("file.duration") or 0)
        streams = ([picture.stream] if picture else []) + [t.stream for t in tracks]
        damaged = 0
        for packet in container.demux(*streams):
            part = by_index.get(packet.stream.index, picture)
            assert part is not None
            try:
                part.take(packet)
            except av.InvalidDataError:
                damaged += 1
            if isinstance(part, _Picture) or picture is None:
                _tell(progress, part, total, began)
        values: dict[str, Value | None] = {}
        if picture is not None:
            values |= picture.facts(facts)
        for number, track in enumerate(tracks, 1):
            values |= {track_key(k, number): v for k, v in track.facts(picture).items()}
        if picture is None and tracks:
            values["file.duration"] = tracks[0].length
        measured = facts.with_values("measured", values)
    notes = _truncation(path, measured, picture, damaged)
    return {"facts": measured.as_json(), "seconds": time.monotonic() - began, "notes": notes}


def _tell(progress: Progress, part: _Picture | _Sound, total: float, began: float) -> None:
    elapsed = time.monotonic() - began
    share = min(1.0, part.clock / total) if total else 0.0
    progress(
        {"stage": "measure", "frame": part.count, "frames": None, "elapsed": elapsed, "share": share,
         "speed": part.clock / elapsed if elapsed else 0.0,
         "remaining": elapsed / share - elapsed if share > 0.02 else None}
    )  # fmt: skip


def _truncation(path: str, facts: Facts, picture: _Picture | None, damaged: int) -> list[str]:
    """Say what shows that the file is cut short or damaged."""
    notes = []
    if picture is not None and picture.count == 0:
        raise BadMedia(f"Not one picture of '{path.rsplit('/', 1)[-1]}' could be decoded.", "Ask for the file again.")
    if damaged:
        notes.append(f"{damaged} packets could not be decoded: the file is damaged or cut short.")
    elif picture is not None and picture.corrupt:
        notes.append(f"{picture.corrupt} frames are damaged: the file is cut short or was not copied whole.")
    fact = facts.fact("file.duration")
    if isinstance(fact.declared, Fraction) and isinstance(fact.measured, Fraction):
        missing = fact.declared - fact.measured
        if missing > max(Fraction(1, 2), fact.declared / 50):
            notes.append(f"{float(missing):.2f} s of the length in the header are not there: the file is cut short.")
    return notes


class _Picture:
    """Gathers what the picture stream shows."""

    def __init__(self, stream: VideoStream) -> None:
        stream.thread_type = ThreadType.AUTO
        self.stream, self.base = stream, Fraction(stream.time_base or Fraction(1, 90000))
        self.count = self.bytes = self.corrupt = 0
        self.sizes: list[int] = []
        self.keys: list[int] = []
        self.stamps: list[int] = []
        self.interlaced = 0
        self.fields = lines.FieldWatch()
        self._kept: list[lines.Luma] = []
        self.last_duration: int | None = None

    @property
    def clock(self) -> float:
        return float((self.stamps[-1] - self.stamps[0]) * self.base) if self.stamps else 0.0

    def take(self, packet: Packet[Any]) -> None:
        if packet.size:
            if packet.is_keyframe:
                self.keys.append(len(self.sizes))
            self.sizes.append(packet.size)
            self.bytes += packet.size
            self.last_duration = packet.duration
            self.corrupt += packet.is_corrupt
        for frame in packet.decode():
            assert isinstance(frame, VideoFrame)
            self._look(frame)

    def _look(self, frame: VideoFrame) -> None:
        if frame.pts is not None:
            self.stamps.append(frame.pts)
        self.interlaced += frame.interlaced_frame
        self.corrupt += frame.is_corrupt
        phase = self.count % LOOK_EVERY
        if phase < 3 and frame.height >= 16:
            self._kept.append(lines.luma(frame))
            if phase == 2:
                before, now, after = self._kept[-3:]
                if before.shape == now.shape == after.shape:
                    self.fields.look(before, now, after)
                self._kept = []
        self.count += 1

    def facts(self, header: Facts) -> dict[str, Value | None]:
        stamps = sorted(self.stamps)
        rate, steady = _clock(stamps, self.base, header.fraction("motion.rate"))
        length = Fraction(self.count) / rate if rate and steady else None
        if length is None and len(stamps) > 1:
            length = (stamps[-1] - stamps[0]) * self.base + Fraction(self.last_duration or 0) * self.base
        scan, order = self._scan(header)
        gops = [b - a for a, b in zip(self.keys, [*self.keys[1:], len(self.sizes)], strict=True)]
        per_second = _windows(self.sizes, rate)
        average = int(Fraction(self.bytes * 8) / length) if length else None
        mode = None
        if per_second and average:
            worst = max(abs(w * 8 - average) for w in per_second)
            mode = "constant" if worst <= CONSTANT_WITHIN * average else "variable"
        return {
            "motion.frames": self.count,
            "motion.rate": rate,
            "motion.steady": steady,
            "motion.scan": scan,
            "motion.field_order": order,
            "motion.lines": self.fields.verdict,
            "motion.intra_only": len(self.keys) == len(self.sizes),
            "motion.longest_gop": max(gops) if gops else None,
            "picture.bit_rate": average,
            "picture.peak_bit_rate": max(per_second) * 8 if per_second else average,
            "picture.rate_mode": mode,
            "file.duration": length,
        }

    def _scan(self, header: Facts) -> tuple[str, str]:
        """Join what the frames signal with what their lines show.

        Whole frames carried as fields stay interlaced in their stream's signalling; only lines that
        clearly show fields, or the other field order, overrule it.
        """
        shown = self.fields.verdict
        signalled = self.interlaced * 2 > self.count
        if shown in {"upper first", "lower first"}:
            return "interlaced", shown
        if not signalled:
            return "progressive", "none"
        said = header.value("motion.field_order")
        return "interlaced", said if said in {"upper first", "lower first"} else "upper first"

    @property
    def span(self) -> tuple[Fraction, Fraction] | None:
        """Give the times of the first picture and of the end of the last."""
        if not self.stamps:
            return None
        first, last = min(self.stamps) * self.base, max(self.stamps) * self.base
        if len(self.stamps) > 1:
            return first, last + (last - first) / (len(self.stamps) - 1)
        return first, last + Fraction(self.last_duration or 0) * self.base


def _clock(stamps: list[int], base: Fraction, declared_rate: Fraction | None) -> tuple[Fraction | None, bool | None]:
    """Find the exact rate behind time stamps, and whether it is steady.

    Stamps are rounded to ticks, so each may stray by a tick; the declared rate is believed where it explains them all.
    """
    if len(stamps) < 2:
        return declared_rate, None
    mean = (stamps[-1] - stamps[0]) * base / (len(stamps) - 1)
    if mean <= 0:
        return declared_rate, False
    rate = 1 / mean
    for candidate in (declared_rate, rate.limit_denominator(1001), Fraction(round(rate * 1001), 1000) * Fraction(1000, 1001)):
        if candidate and abs(candidate / rate - 1) < Fraction(1, 2000):
            drift = max(abs((s - stamps[0]) * base - n / candidate) for n, s in enumerate(stamps))
            if drift <= 2 * base:
                return candidate, True
    return (declared_rate if declared_rate and abs(declared_rate / rate - 1) < Fraction(1, 50) else rate), False


def _windows(sizes: list[int], rate: Fraction | None) -> list[int]:
    """Sum the coded bytes in every window of one second, in coding order; empty for less than a second."""
    if not rate:
        return []
    width = ceil(rate)
    if len(sizes) < width:
        return []
    total = sum(sizes[:width])
    sums = [total]
    for n in range(width, len(sizes)):
        total += sizes[n] - sizes[n - width]
        sums.append(total)
    return sums


class _Sound:
    """Gathers what one sound stream holds: span, bytes, loudness, true peak."""

    def __init__(self, stream: AudioStream) -> None:
        self.stream = stream
        self.count = self.bytes = self.samples = 0
        self.first: Fraction | None = None
        self.last = Fraction(0)
        self._meter: Filtered | None = None
        self.loudness: Fraction | None = None
        self.peak: Fraction | None = None

    @property
    def clock(self) -> float:
        return self.samples / (self.stream.codec_context.sample_rate or 48000)

    @property
    def length(self) -> Fraction | None:
        return None if self.first is None else self.last - self.first

    def take(self, packet: Packet[Any]) -> None:
        self.bytes += packet.size
        for frame in packet.decode():
            assert isinstance(frame, AudioFrame)
            self.count += 1
            self.samples += frame.samples
            if frame.pts is not None:
                at = frame.pts * Fraction(frame.time_base or Fraction(1, frame.sample_rate))
                self.first = at if self.first is None else self.first
                self.last = at + Fraction(frame.samples, frame.sample_rate)
            self._hear(frame)

    def _hear(self, frame: AudioFrame | None) -> None:
        if self._meter is None:
            # EBU R 128 and ITU-R BS.1770 by the library's own meter; values travel as frame metadata.
            chain = [("aresample", "osr=48000"), ("ebur128", "metadata=1:peak=true:framelog=quiet")]
            self._meter = sound_graph(self.stream, chain)
        for heard in self._meter.push(frame):
            said = heard.metadata
            if "lavfi.r128.I" in said:
                self.loudness = _number(said["lavfi.r128.I"])
            peaks = [float(v) for k, v in said.items() if k.startswith("lavfi.r128.true_peaks_ch")]
            if peaks:
                self.peak = _number(f"{_decibel(max(peaks)):.2f}")

    def facts(self, picture: _Picture | None) -> dict[str, Value | None]:
        if self._meter is not None:
            self._hear(None)
        length = self.length
        values: dict[str, Value | None] = {
            "sound.bit_rate": int(Fraction(self.bytes * 8) / length) if length else None,
            "sound.loudness": self.loudness,
            "sound.true_peak": self.peak,
        }
        if picture is not None and picture.span is not None and self.first is not None:
            start, end = picture.span
            values["sound.start_offset"] = self.first - start
            values["sound.length_difference"] = (self.last - self.first) - (end - start)
        return values


def _number(text: str) -> Fraction | None:
    return None if text.lower() in {"nan", "-inf", "inf"} else Fraction(text)


def _decibel(linear: float) -> float:
    from math import log10

    return 20 * log10(linear) if linear > 1e-10 else -200.0
