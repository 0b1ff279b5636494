"""ProRes, by the library's own encoder at quantisers that are chosen here.

Its own control of the rate searches every slice's quantiser by trial: 17 times the work of coding
once. Here a frame's quantiser is chosen from some of its rows, and the frame coded with it; what
decides is the frame alone, so that a film coded in parts is the same, byte by byte.
"""

from __future__ import annotations

import threading
from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import av
import numpy as np
from av.container import OutputContainer
from av.video.codeccontext import VideoCodecContext
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ...core.planning.encoding import PictureByContent
from ...core.planning.steps import PictureFormat
from ...core.units.fields import FieldOrder
from .setup import Pass, PictureSetup, tagged
from .side_by_side import SideBySide

# Its names for profiles, where they differ.
PROFILES = {"xq": "4444xq"}
# The quantisers that are tried; the library takes none over 64.
LADDER: tuple[int, ...] = (*range(1, 17), *range(18, 33, 2), *range(36, 65, 4))
# A quantiser twice as coarse leaves about half of the bytes; that which is tried first is among
# those that grainy pictures take.
GUESSES, USUAL = 2, 10
QUANTISER = 118  # the library's units of one
BLOCK, SHARE = 16, 16  # rows of a macroblock; one row of macroblocks of so many is looked at
OPAQUE = {"yuva444p10le": "yuv444p10le"}  # samples without transparency
LEAST_ROWS = 3  # of macroblocks that are looked at
HEAD = 8  # bytes before a frame's header, and of a picture's header

Sizes = Callable[[int], int]


@dataclass(frozen=True)
class ProresSetup:
    """Opens a stream of ProRes.

    Attributes:
        setup: the library's encoder, which searches; it names the stream, and takes the frames that
            no quantiser here makes small enough.
        target: bytes that a frame's colour may have.
    """

    setup: PictureSetup
    target: int

    def open(self, container: OutputContainer, f: PictureFormat, turn: Pass | None) -> SideBySide:
        """Add a stream to a file."""
        stream = self.setup.open(container, f, turn)
        assert isinstance(stream, VideoStream)
        frames = Frames(self.setup, f, self.target)
        return SideBySide(stream, f.rate, frames.coded)


class Frames:
    """Codes frames at the finest quantiser that keeps their colour within so many bytes."""

    def __init__(self, setup: PictureSetup, f: PictureFormat, target: int) -> None:
        self._setup, self._format, self._target = setup, f, target
        self._rows = BLOCK if f.fields is None else 2 * BLOCK
        self._own = threading.local()

    def coded(self, frame: VideoFrame) -> bytes:
        """Give the bytes of a frame."""
        some = sampled(frame, self._rows)
        seen: dict[int, int] = {}

        def sample(quantiser: int) -> int:
            if quantiser not in seen:
                seen[quantiser] = len(self._code(some, quantiser))
            return seen[quantiser]

        ratio = frame.height / some.height
        quantiser = finest(sample, self._target / ratio)
        made = self._code(frame, quantiser)
        weight = self._weight(made)
        # The rows that were looked at are not quite like the others.
        better = finest(sample, self._target * sample(quantiser) / weight)
        if better < quantiser:
            finer = self._code(frame, better)
            return finer if self._weight(finer) <= self._target else made
        for coarser in LADDER[LADDER.index(quantiser) + 1 :]:
            if weight <= self._target:
                return made
            if coarser >= better:
                made = self._code(frame, coarser)
                weight = self._weight(made)
        return made if weight <= self._target else self._code(frame, None)

    def _weight(self, coded: bytes) -> int:
        return colour_bytes(coded) if self._format.alpha else len(coded)

    def _code(self, frame: VideoFrame, quantiser: int | None) -> bytes:
        """Code a frame at a quantiser, or have the library search for them."""
        frame.pts = 0
        key = quantiser, frame.height
        contexts = self._own.__dict__.setdefault("contexts", {})
        if key not in contexts:
            contexts[key] = self._context(frame, quantiser)
        return b"".join(bytes(packet) for packet in contexts[key].encode(frame))

    def _context(self, frame: VideoFrame, quantiser: int | None) -> VideoCodecContext:
        context = av.CodecContext.create(self._setup.encoder, "w")
        assert isinstance(context, VideoCodecContext)
        context.width, context.height = frame.width, frame.height
        context.pix_fmt, context.time_base = frame.format.name, 1 / self._format.rate
        context.framerate = self._format.rate
        context.thread_count = 1
        options = dict(self._setup.options)
        if context.pix_fmt in OPAQUE.values():
            options["alpha_bits"] = "0"
        if quantiser is not None:
            options["flags"] = f"{options.get('flags', '')}+qscale"
            options["global_quality"] = str(QUANTISER * quantiser)
        context.options = options
        return context


def finest(sizes: Sizes, target: float) -> int:
    """Give the finest quantiser with which something has no more than so many bytes, or else the
    coarsest.
    """
    at, last = LADDER.index(USUAL), len(LADDER) - 1
    for _ in range(GUESSES):
        wanted = LADDER[at] * sizes(LADDER[at]) / target
        at = min(bisect_left(LADDER, wanted), last)
    while at and sizes(LADDER[at - 1]) <= target:
        at -= 1
    while at < last and sizes(LADDER[at]) > target:
        at += 1
    return LADDER[at]


def sampled(frame: VideoFrame, rows: int) -> VideoFrame:
    """Give some rows of macroblocks of a picture, from all over it, as a small picture.

    Args:
        frame: of which.
        rows: of samples that belong together; twice a macroblock's for two fields.
    """
    count = max(1, frame.height // rows)
    taken = min(count, max(LEAST_ROWS, count // SHARE))
    starts = [rows * ((2 * n + 1) * count // (2 * taken)) for n in range(taken)]
    height = min(rows, frame.height)
    # Transparency costs what it costs.
    opaque = OPAQUE.get(frame.format.name, frame.format.name)
    some = VideoFrame(frame.width, height * taken, opaque)
    for whole, part in zip(frame.planes, some.planes, strict=False):
        shrunk = frame.height // whole.height  # rows of the frame that one of the plane stands for
        lines = _lines(whole)
        for at, start in enumerate(starts):
            piece = lines[start // shrunk : (start + height) // shrunk]
            _lines(part)[at * height // shrunk :][: len(piece), : piece.shape[1]] = piece
    return some


def _lines(plane: Any) -> Any:
    whole = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
    return whole[: plane.height, : 2 * plane.width]


def colour_bytes(coded: bytes) -> int:
    """Give the bytes of a frame without those of its transparency.

    A frame is two lengths' worth of names, a header that begins with its own length, and one or two
    pictures: each a header (its length in bits, its bytes, how many slices), a table of two bytes a
    slice, and the slices, whose heads give their length in bits, the quantiser, and the bytes of
    luma and of each chroma (SMPTE RDD 36, from memory).
    """
    at = HEAD + int.from_bytes(coded[HEAD : HEAD + 2], "big")
    alpha = 0
    while at + HEAD <= len(coded):
        size = int.from_bytes(coded[at + 1 : at + 5], "big")
        if not size:
            break
        head, count = coded[at] >> 3, int.from_bytes(coded[at + 5 : at + 7], "big")
        table = np.frombuffer(coded, ">u2", count, at + head).astype(np.int64)
        starts = at + head + 2 * count + np.concatenate(([0], np.cumsum(table)[:-1]))
        data = np.frombuffer(coded, np.uint8)
        used = (data[starts] >> 3).astype(np.int64)
        for plane in (2, 4, 6):
            used += data[starts + plane].astype(np.int64) << 8
            used += data[starts + plane + 1]
        alpha += int((table - used).sum())
        at += size
    return len(coded) - alpha


def setup(e: PictureByContent, f: PictureFormat) -> ProresSetup:
    """Give what opens the stream: each frame stays under its ceiling."""
    options = tagged(f) | {
        "profile": PROFILES.get(e.profile, e.profile),
        "bits_per_mb": str(e.ceiling(f)),
        "alpha_bits": "16" if f.alpha else "0",
    }
    if f.fields is not None:
        # Wrappers say it besides the frames: which field comes first of two interleaved ones.
        order = "tb" if f.fields is FieldOrder.UPPER else "bt"
        options |= {"flags": "+ildct", "field_order": order}
    return ProresSetup(PictureSetup("prores_ks", options), e.frame_bytes(f))


PICTURE = {"prores": setup}
