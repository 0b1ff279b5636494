"""Boxes of ISO base media files and QuickTime files: what the codec library does not tell of them.

ISO/IEC 14496-12 (boxes, tkhd, stsd, clap, pasp), Apple's QuickTime File Format specification (fiel,
alpha in stsd).
"""

from __future__ import annotations

import os
import struct
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache

INSIDE = {b"moov", b"trak", b"mdia", b"minf", b"stbl"}
MOST_BOXES, LARGEST_READ = 20_000, 1 << 20
PICTURE_ENTRY, SOUND_ENTRY = 86, 36  # bytes of a sample entry before its own boxes


@dataclass
class Track:
    """What a track's own boxes say.

    Attributes:
        handler: vide, soun, tmcd and so on.
        entry: four characters of the sample entry.
        enabled: whether players play it unasked (tkhd flag 1).
        aperture: clean aperture, width and height in samples.
        aspect: pixel aspect of the wrapper (pasp), whatever the coded stream says.
        drop: drop-frame flag of a timecode track.
    """

    handler: str = ""
    entry: str = ""
    enabled: bool = True
    aperture: tuple[Fraction, Fraction] | None = None
    aspect: Fraction | None = None
    drop: bool | None = None


@dataclass
class Layout:
    """A file's boxes: the kinds at the top in their order, and its tracks."""

    top: list[bytes] = field(default_factory=list)
    tracks: list[Track] = field(default_factory=list)

    @property
    def index_in_front(self) -> bool | None:
        """Say whether the index comes before the media; None where one of them is not there."""
        if b"moov" in self.top and b"mdat" in self.top:
            return self.top.index(b"moov") < self.top.index(b"mdat")
        return None

    @property
    def encrypted(self) -> bool:
        """Say whether a track's sample entry marks it as encrypted (ISO/IEC 23001-7; drms is an
        older mark).
        """
        return any(t.entry in {"encv", "enca", "drms", "drmi"} for t in self.tracks)

    def of(self, handler: str) -> list[Track]:
        """List the tracks of a handler."""
        return [t for t in self.tracks if t.handler == handler]


def read(path: str) -> Layout:
    """Read a file's boxes, once for its bytes; what makes no sense ends the reading, not the
    program.
    """
    told = os.stat(path)
    return _read(path, told.st_size, told.st_mtime_ns)


@lru_cache(maxsize=4)
def _read(path: str, size: int, changed: int) -> Layout:
    found = Layout()
    with open(path, "rb") as file:
        budget = [MOST_BOXES]
        for kind, start, end in _boxes(file, 0, size, budget):
            found.top.append(kind)
            if kind == b"moov":
                _walk(file, start, end, found, budget)
    return found


def _boxes(
    file: object, start: int, end: int, budget: list[int]
) -> Iterator[tuple[bytes, int, int]]:
    """Yield (kind, start of contents, end) of the boxes between two places."""
    at = start
    while at + 8 <= end and budget[0] > 0:
        budget[0] -= 1
        file.seek(at)  # type: ignore[attr-defined]
        head = file.read(16)  # type: ignore[attr-defined]
        if len(head) < 8:
            return
        size, kind = struct.unpack(">I4s", head[:8])
        inner = at + 8
        if size == 1 and len(head) == 16:
            size, inner = struct.unpack(">Q", head[8:])[0], at + 16
        elif size == 0:
            size = end - at
        if size < inner - at or at + size > end:
            # A media box that runs past the end is a file cut short: its kind still counts.
            if size >= inner - at:
                yield kind, inner, end
            return
        yield kind, inner, at + size
        at += size


def _walk(
    file: object, start: int, end: int, found: Layout, budget: list[int], track: Track | None = None
) -> None:
    for kind, inner, stop in _boxes(file, start, end, budget):
        if kind == b"trak":
            track = Track()
            found.tracks.append(track)
        if kind in INSIDE:
            _walk(file, inner, stop, found, budget, track)
        elif (
            track is not None
            and kind in {b"tkhd", b"hdlr", b"stsd"}
            and stop - inner < LARGEST_READ
        ):
            file.seek(inner)  # type: ignore[attr-defined]
            _take(kind, file.read(stop - inner), track)  # type: ignore[attr-defined]


def _take(kind: bytes, data: bytes, track: Track) -> None:
    if kind == b"tkhd" and len(data) >= 4:
        track.enabled = bool(data[3] & 1)
    elif kind == b"hdlr" and len(data) >= 12:
        # The first hdlr is the media's; QuickTime adds another for the data.
        track.handler = track.handler or data[8:12].decode("latin-1")
    elif kind == b"stsd" and len(data) >= 16:
        track.entry = data[12:16].decode("latin-1").strip("\x00 ")
        entry = data[8:]
        if track.handler == "vide":
            _visual(entry[PICTURE_ENTRY:], track)
        elif track.entry == "tmcd" and len(entry) >= 24:
            track.drop = bool(struct.unpack(">I", entry[20:24])[0] & 1)


def _visual(data: bytes, track: Track) -> None:
    at = 0
    while at + 8 <= len(data):
        size, kind = struct.unpack(">I4s", data[at : at + 8])
        body = data[at + 8 : at + size]
        if size < 8:
            return
        if kind == b"pasp" and len(body) >= 8:
            across, down = struct.unpack(">II", body[:8])
            track.aspect = Fraction(across, down) if across and down else None
        elif kind == b"clap" and len(body) >= 16:
            wide, wide_of, high, high_of = struct.unpack(">IIII", body[:16])
            if wide_of and high_of:
                track.aperture = (Fraction(wide, wide_of), Fraction(high, high_of))
        at += size
