"""Gathers what a picture stream shows: its clock, scan, GOPs and rates, and at full depth what
every frame is looked at for.
"""

from __future__ import annotations

import itertools
import struct
from array import array
from collections.abc import Sequence
from fractions import Fraction
from math import ceil
from typing import Any

import av
import av.filter
from av.codec.context import ThreadType
from av.packet import Packet
from av.sidedata.sidedata import Type
from av.video.frame import PictureType, VideoFrame
from av.video.stream import VideoStream

from ...core import formats
from ...core.facts import Facts
from ...core.facts.events import Event
from ...core.facts.words import IN_PICTURE
from ...core.formats import mastering, vbv
from ...core.units import geometry
from ...core.units.values import Size, Value
from ..read import decoder
from ..threads import InOrder
from . import coded, lines, picture_content

# A picture rate is called constant where no one-second window strays further than this from the
# average.
CONSTANT_WITHIN = Fraction(3, 100)
LOOK_EVERY = 12  # frames from one look at the fields to the next
MOST_POINTS = 2000  # of a drawn curve


def first_frame(frame: VideoFrame, stream: VideoStream) -> dict[str, Value | None]:
    """Give what the first decoded frame tells beyond the headers: turn, the stream's own pixel
    aspect, mastering figures.
    """
    found: dict[str, Value | None] = {"picture.rotation": frame.rotation % 360}
    aspect = stream.codec_context.sample_aspect_ratio
    if aspect:
        size = Size(frame.width, frame.height)
        shape, seen = (
            geometry.display_aspect(size, Fraction(aspect)),
            formats.picture_of(stream.codec_context.name, size),
        )
        found["picture.pixel_aspect"] = geometry.pixel_aspect(shape, seen.width, seen.height)
        found["picture.display_aspect"] = shape
    try:
        side: list[Any] = list(frame.side_data)
    except ValueError:  # data of a kind that the binding has no name for
        side = []
    for data in side:
        if data.type == Type.MASTERING_DISPLAY_METADATA:
            found["picture.mastering"] = _mastering(bytes(data))
        elif data.type == Type.CONTENT_LIGHT_LEVEL:
            most, average = struct.unpack("II", bytes(data)[:8])
            found["picture.light_level"] = mastering.light_level(most, average)
        elif data.type == Type.A53_CC:
            found["file.captions"] = IN_PICTURE
    return found


def frame_order(frame: VideoFrame) -> str | None:
    """Give the field order that a decoded frame states, which only the library's own filters can
    see.
    """
    graph = av.filter.Graph()
    source = graph.add(
        "buffer",
        f"video_size={frame.width}x{frame.height}:pix_fmt={frame.format.name}:time_base=1/25:colorspace=unknown:range=unknown",
    )
    chosen, sink = graph.add("select", "eq(interlace_type,TOPFIRST)"), graph.add("buffersink")
    source.link_to(chosen)
    chosen.link_to(sink)
    graph.configure()
    try:
        graph.push(frame)
        graph.pull()
    except (av.error.BlockingIOError, av.error.EOFError):
        return "lower first"
    except av.FFmpegError:
        return None
    return "upper first"


def _mastering(data: bytes) -> str | None:
    """Read SMPTE ST 2086 figures as the codec library lays them out: ten fractions (the primaries,
    the white point, least and most luminance), then two flags.
    """
    parts = struct.unpack("20i2i", data[:88])
    figures = [Fraction(a, b or 1) for a, b in zip(parts[0:20:2], parts[1:20:2], strict=True)]
    points = tuple(zip(figures[0:8:2], figures[1:8:2], strict=True))
    has_primaries, has_luminance = parts[20:]
    if not has_luminance:
        return None
    display = mastering.Mastering(points, figures[8], figures[9])
    return display.words() if has_primaries else display.words().partition(", ")[0]


class PictureMeter:
    """Takes the packets of the picture stream in turn."""

    def __init__(self, stream: VideoStream, header: Facts, everything: bool) -> None:
        stream.thread_type = ThreadType.AUTO
        self.stream, self.base = stream, Fraction(stream.time_base or Fraction(1, 90000))
        self._decode = decoder(stream)
        self.count = self.bytes = self.corrupt = 0
        # Plain arrays for what is kept of every frame: it grows with a film's length.
        self.sizes = array("q")
        self.coded = coded.CodedFrames(
            stream.codec_context.name, bytes(stream.codec_context.extradata or b"")
        )
        self.keys: list[int] = []
        self.stamps = array("q")
        self.interlaced = 0
        self.fields = lines.FieldMeter()
        self._judged = InOrder(self.fields.take)
        self.signalled: list[bool] = []
        self.size: Size | None = None
        self.odd_sizes = 0
        self.signalled_order: str | None = (
            None  # of the first interlaced frame, as the coded stream states it
        )
        self._b_run = self.b_frames = 0
        self._key_pts: int | None = None
        self.open_gop = False
        self.hidden = self.untimed = 0
        self.told: dict[str, Value | None] = {}
        self.content = (
            picture_content.PictureContent(header, header.fraction("motion.rate"))
            if everything
            else None
        )
        self._kept: list[lines.Luma] = []
        self.last_duration: int | None = None
        self.lengths: set[int] = set()  # of coded frames, in ticks
        self.rate: Fraction | None = None

    @property
    def clock(self) -> float:
        """Give the seconds that were seen."""
        return float((self.stamps[-1] - self.stamps[0]) * self.base) if self.stamps else 0.0

    def take(self, packet: Packet[Any]) -> None:
        """Take one packet."""
        if packet.size:
            if packet.is_keyframe:
                # What is coded after a key frame and shown before it leans on the GOP before; the
                # first GOP has none.
                self._key_pts = packet.pts if self.keys else None
                self.keys.append(len(self.sizes))
            elif (
                self._key_pts is not None and packet.pts is not None and packet.pts < self._key_pts
            ):
                self.open_gop = True
            self.hidden += packet.is_discard
            self.untimed += packet.pts is None
            self.sizes.append(packet.size)
            data = bytes(packet)
            self.coded.take(data)
            if self.content is not None:
                self.content.digest.update(data)
            self.bytes += packet.size
            self.last_duration = packet.duration
            if packet.duration:
                self.lengths.add(packet.duration)
            self.corrupt += packet.is_corrupt
        for frame in self._decode(packet):
            self._look(frame)

    def _look(self, frame: VideoFrame) -> None:
        if self.size is None:
            self.size = Size(frame.width, frame.height)
            self.told = first_frame(frame, self.stream)
        if frame.interlaced_frame and self.signalled_order is None:
            self.signalled_order = frame_order(frame)
        self.odd_sizes += self.size != (frame.width, frame.height)
        self._b_run = self._b_run + 1 if frame.pict_type == PictureType.B else 0
        self.b_frames = max(self.b_frames, self._b_run)
        self.signalled.append(bool(frame.interlaced_frame))
        if self.content is not None:
            self.content.take(frame)
        if frame.pts is not None:
            self.stamps.append(frame.pts)
        self.interlaced += frame.interlaced_frame
        self.corrupt += frame.is_corrupt
        phase = self.count % LOOK_EVERY
        if phase < 3 and frame.height >= 16:
            self._kept.append(lines.luma(frame))
            if self.content is not None and phase == 0:
                self.content.bars.take(frame, self._kept[0])
            if phase == 2:
                before, now, after = self._kept[-3:]
                if before.shape == now.shape == after.shape:
                    self._judged.put(lines.judged, before, now, after, self.count - 2)
                self._kept = []
        self.count += 1

    def finish(self) -> None:
        """Wait until all that came is looked at."""
        self._judged.finish()
        if self.content is not None:
            self.content.finish()

    def facts(self, header: Facts) -> dict[str, Value | None]:
        """Give what was found."""
        stamps = sorted(self.stamps)
        rate, steady = _clock(stamps, self.base, header.fraction("motion.rate"))
        if not stamps and rate is not None and self.lengths:
            # A bare stream has one clock: a frame lasts longer only where it is to be repeated.
            steady = len(self.lengths) == 1
        length = Fraction(self.count) / rate if rate and (steady or not stamps) else None
        if length is None and len(stamps) > 1:
            length = (stamps[-1] - stamps[0]) * self.base + Fraction(
                self.last_duration or 0
            ) * self.base
        scan, order = self._scan(header)
        gops = [b - a for a, b in itertools.pairwise([*self.keys, len(self.sizes)])]
        per_second = _windows(self.sizes, rate)
        average = int(Fraction(self.bytes * 8) / length) if length else None
        self.rate = rate
        mode = stray = None
        if per_second and average:
            worst = max(abs(w * 8 - average) for w in per_second)
            mode = "constant" if worst <= CONSTANT_WITHIN * average else "variable"
            stray = Fraction(round(Fraction(worst, average) * 10_000), 100)
        return (
            {
                "motion.frames": self.count,
                "motion.rate": rate,
                "motion.steady": steady,
                "motion.scan": scan,
                "motion.field_order": order,
                "motion.lines": self.fields.verdict,
                "motion.intra_only": len(self.keys) == len(self.sizes),
                "motion.longest_gop": max(gops) if gops else None,
                "motion.b_frames": self.b_frames,
                "motion.open_gop": self.open_gop,
                "motion.starts_on_key": self.keys[:1] == [0] if self.sizes else None,
                "motion.hidden_frames": self.hidden,
                "motion.timed": self.untimed == 0 if self.sizes else None,
                "picture.size": self.size,
                "picture.bit_rate": average,
                "picture.peak_bit_rate": max(per_second) * 8 if per_second else average,
                "picture.rate_mode": mode,
                "picture.rate_deviation": stray,
                "picture.slices": self.coded.slices,
                "picture.vbv": self._buffer(length) if steady else None,
                "file.duration": length,
            }
            | self.told
            | (self.content.facts(header, rate) if self.content is not None else {})
        )

    def promised(self) -> dict[str, Value | None]:
        """Give what the coded stream's own header promises."""
        buffer = self.coded.buffer
        return {"picture.vbv": buffer.size, "picture.vbv_rate": buffer.rate} if buffer else {}

    def _buffer(self, length: Fraction | None) -> int | None:
        """Give the buffer that the frames need at the rate that their header names, in bits."""
        promise = self.coded.buffer
        if promise is None or not length or not self.sizes:
            return None
        return vbv.least_buffer(
            (size * 8 for size in self.sizes), promise.rate, length / len(self.sizes)
        )

    def events(self) -> list[Event]:
        """Give what was found at places in time."""
        rate = self.rate or Fraction(25)
        made = self.content.events(rate) if self.content is not None else []
        turns = self.fields.changes()
        if len(turns) > 1:
            ends = [number for number, _ in turns[1:]] + [self.count]
            turns[0] = (0, turns[0][1])
            made += [
                Event(
                    "scan",
                    start / rate,
                    end / rate,
                    f"lines show {what} (found within {LOOK_EVERY} frames)",
                    start,
                    end - 1,
                )
                for (start, what), end in zip(turns, ends, strict=True)
            ]
        return made

    def notes(self) -> list[str]:
        """Say in plain words what does not stay the same within the file."""
        said = []
        shown = [what for _, what in self.fields.changes()]
        if len(shown) > 1:
            said.append(
                f"What the lines show changes within the file: {', then '.join(shown)}. See the "
                f"places on the time line."
            )
        share = sum(self.signalled)
        if 0 < share < self.count:
            said.append(
                f"{share} of {self.count} frames are signalled as interlaced, the others as "
                f"progressive."
            )
        if self.odd_sizes:
            said.append(f"{self.odd_sizes} frames have another size than the first one.")
        return said

    def trace(self) -> dict[str, Any]:
        """Give the coded bits of each second for the screen."""
        width = ceil(self.rate) if self.rate else 25
        sums = [sum(self.sizes[n : n + width]) * 8 for n in range(0, len(self.sizes), width)]
        join = max(1, -(-len(sums) // MOST_POINTS))
        step = Fraction(width * join) / (self.rate or 25)
        return {
            "step": float(step),
            "bits": [max(sums[n : n + join]) for n in range(0, len(sums), join)],
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


def _clock(
    stamps: list[int], base: Fraction, declared_rate: Fraction | None
) -> tuple[Fraction | None, bool | None]:
    """Find the exact rate behind time stamps, and whether it is steady.

    Stamps are rounded to ticks, so each may stray by a tick; the declared rate is believed where it
    explains them all.
    """
    if len(stamps) < 2:
        return declared_rate, None
    mean = (stamps[-1] - stamps[0]) * base / (len(stamps) - 1)
    if mean <= 0:
        return declared_rate, False
    rate = 1 / mean
    for candidate in (
        declared_rate,
        rate.limit_denominator(1001),
        Fraction(round(rate * 1001), 1000) * Fraction(1000, 1001),
    ):
        # Over a short file two ticks are more than rates lie apart: then the declared one is
        # believed.
        if candidate and abs(candidate / rate - 1) < max(
            Fraction(1, 2000), 2 / Fraction(stamps[-1] - stamps[0])
        ):
            drift = max(abs((s - stamps[0]) * base - n / candidate) for n, s in enumerate(stamps))
            if drift <= 2 * base:
                return candidate, True
    return (
        declared_rate if declared_rate and abs(declared_rate / rate - 1) < Fraction(1, 50) else rate
    ), False


def _windows(sizes: Sequence[int], rate: Fraction | None) -> list[int]:
    """Sum the coded bytes in every window of one second, in coding order; empty for less than a
    second.
    """
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
