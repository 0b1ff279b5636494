"""Facts measured by decoding a file whole, in one pass. Runs inside the child process.

Measuring starts from the bytes alone: it never sees the route that made the file. There are two
depths: what every ledger needs, and everything.
"""

from __future__ import annotations

import base64
import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any, NamedTuple

import av
import numpy as np
from av.container import InputContainer
from av.packet import Packet

from ...core import formats
from ...core.errors import BadMedia
from ...core.facts import Facts
from ...core.facts.apart import joined
from ...core.facts.captions import tracks_of
from ...core.facts.events import Event
from ...core.facts.properties import Depth, lookup, track_key
from ...core.quality import alike
from ...core.units.values import Value, fraction
from .. import folders, sequence
from ..headers import declared
from ..read import open_media, packets, picture_stream, sound_streams
from ..threads import Beside
from . import cost, sound_content
from .picture import PictureMeter
from .sound import SoundMeter

Progress = Callable[[dict[str, Any]], None]


def handle(progress: Progress, path: str, depth: Depth = "ledger") -> dict[str, Any]:
    """Decode the whole file: {facts, seconds, notes, events, traces, outline}; of files that
    belong together all.
    """
    every = [_measured(progress, one, depth) for one in folders.streams_of(path)]
    facts = joined([one.facts for one in every]) if len(every) > 1 else every[0].facts
    events = [e for n, one in enumerate(every) for e in _of_track(one.events, n)]
    events.sort(key=lambda e: (e.start, e.kind))
    return {
        "facts": facts.as_json(),
        "seconds": sum(one.seconds for one in every),
        "notes": [note for one in every for note in one.notes],
        "events": [e.as_json() for e in events],
        "traces": _together([one.traces for one in every]),
        "outline": next((one.outline for one in every if one.outline), None),
    }


class _File(NamedTuple):
    """What was found in one file."""

    facts: Facts
    seconds: float
    notes: list[str]
    events: list[Event]
    traces: dict[str, Any]
    outline: dict[str, str] | None = None


def _measured(progress: Progress, path: str, depth: Depth) -> _File:
    began = time.monotonic()
    watched = _Measured.decode(progress, path, depth == "everything", began)
    decoded = time.monotonic() - began
    facts, values = watched.values()
    notes, events = watched.truncation(path, facts, values), list[Event]()
    if depth == "everything":
        values |= watched.cost(path, decoded)
        events = watched.events()
        notes += watched.oddities(path)
    traces, outline = dict[str, Any](), None
    if depth == "everything":
        traces = _traces(watched.picture, watched.tracks)
        outline = _outline(watched.picture)
    facts = facts.with_values("measured", values)
    return _File(facts, time.monotonic() - began, notes, events, traces, outline)


def _of_track(events: list[Event], number: int) -> list[Event]:
    """Give the events of a file as those of its place among others: sound is in all but the
    first.
    """
    if number < 2:
        return events
    return [e if e.track is None else replace(e, track=number) for e in events]


def _together(traces: list[dict[str, Any]]) -> dict[str, Any]:
    first = traces[0]
    if not first:
        return first
    return first | {"tracks": [track for one in traces for track in one["tracks"]]}


@dataclass
class _Measured:
    """A file whose streams were all looked at."""

    facts: Facts
    picture: PictureMeter | None
    tracks: list[SoundMeter]
    damaged: int = 0
    unheard: int = 0  # packets of sound that could not be decoded

    @classmethod
    def decode(cls, progress: Progress, path: str, everything: bool, began: float) -> _Measured:
        """Decode every packet once."""
        with open_media(path) as container:
            facts = declared(container, path)
            stream = picture_stream(container)
            picture = PictureMeter(stream, facts, everything) if stream is not None else None
            sounds = enumerate(sound_streams(container), 1)
            tracks = [SoundMeter(s, n, everything) for n, s in sounds]
            watched = cls(facts, picture, tracks)
            total = float(facts.fraction("file.duration") or 0)
            hearing = Beside()
            for part in watched._parts(container, hearing):
                if part is picture or picture is None:
                    _tell(progress, part, total, began)
            hearing.finish()
            if picture is not None:
                picture.finish()
        for track in tracks:
            track.finish()
        return watched

    def _parts(
        self, container: InputContainer, hearing: Beside
    ) -> Iterator[PictureMeter | SoundMeter]:
        """Give each packet to the part it belongs to, and say which one took it; sound is heard
        beside the picture.
        """
        by_index: dict[int, PictureMeter | SoundMeter] = {t.stream.index: t for t in self.tracks}
        if self.picture is not None:
            by_index[self.picture.stream.index] = self.picture
        for packet in packets(container, *[part.stream for part in by_index.values()]):
            if packet is None:
                self.damaged += 1
                continue
            part = by_index[packet.stream.index]
            if isinstance(part, SoundMeter):
                hearing.put(self._hear, part, packet)
                yield part
                continue
            try:
                part.take(packet)
            except av.FFmpegError:
                self.damaged += 1
            yield part

    def _hear(self, track: SoundMeter, packet: Packet[Any]) -> None:
        try:
            track.take(packet)
        except av.FFmpegError:
            self.unheard += 1

    @property
    def span(self) -> tuple[Fraction, Fraction] | None:
        """Give when the picture begins and ends."""
        return self.picture.span if self.picture is not None else None

    def values(self) -> tuple[Facts, dict[str, Value | None]]:
        """Give what headers declare, the coded stream's own word included, and what was
        measured.
        """
        facts, picture = self.facts, self.picture
        values: dict[str, Value | None] = {}
        if picture is not None:
            if facts.value("motion.field_order") is None and picture.signalled_order is not None:
                # Where the wrapper is silent the coded stream's own word is the declaration.
                order = {
                    "motion.field_order": picture.signalled_order,
                    "motion.scan": "interlaced",
                }
                facts = facts.with_values("declared", order)
            facts = facts.with_values("declared", picture.promised())
            values |= picture.facts(facts)
            if values.get("file.captions") and facts.value("file.captions"):
                # What comes with the frames comes besides the tracks that the header names.
                named = f"{facts.value('file.captions')}, {values['file.captions']}"
                values["file.captions"] = named
        for number, track in enumerate(self.tracks, 1):
            heard = track.facts(self.span, bool(values.get("motion.bars_before")))
            values |= {track_key(key, number): value for key, value in heard.items()}
        if picture is None and self.tracks:
            values["file.duration"] = self.tracks[0].length
        wrapper = formats.WRAPPERS.get(facts.value("file.wrapper"))
        if wrapper is not None and wrapper.still:
            values = {k: v for k, v in values.items() if not lookup(k).needs_motion}
            values["motion.frames"] = 1
        elif values.get("file.duration"):
            seconds = fraction(values["file.duration"])
            values["file.bit_rate"] = int(facts.value("file.size") * 8 / seconds)
        return facts, values

    def truncation(self, path: str, facts: Facts, values: dict[str, Value | None]) -> list[str]:
        """Say whether the file breaks off, or is damaged."""
        return _truncation(path, facts, values, self.picture, self.damaged + self.unheard)

    def cost(self, path: str, decoded: float) -> dict[str, Value | None]:
        """Measure what decoding costs in each direction."""
        picture = self.picture
        if picture is None or picture.count <= 1:
            return {}
        return dict(cost.measure(path, picture.rate, picture.count, decoded))

    def events(self) -> list[Event]:
        """List what happens in picture and sound."""
        picture = self.picture
        rate = picture.rate if picture is not None else None
        events = picture.events() if picture is not None and picture.count > 1 else []
        return events + [e for track in self.tracks for e in track.events(self.span, rate)]

    def oddities(self, path: str) -> list[str]:
        """Say what is odd about the file."""
        notes = self.picture.notes() if self.picture is not None else []
        notes += sound_content.oddities([t.content for t in self.tracks if t.content is not None])
        if os.path.basename(path) == sequence.DESCRIPTION:
            notes += [*sequence.read(path).gaps, *sequence.odd_frames(path)]
        return notes


def _traces(picture: PictureMeter | None, tracks: list[SoundMeter]) -> dict[str, Any]:
    return {
        "picture": picture.trace() if picture is not None and picture.sizes else None,
        "tracks": [t.content.trace() if t.content is not None else {} for t in tracks],
    }


def _outline(picture: PictureMeter | None) -> dict[str, str] | None:
    """Give what tells a film from others: a digest of its coded frames, and what each looks
    like.
    """
    if picture is None or picture.content is None or picture.count < 2:
        return None
    frames = np.frombuffer(picture.content.outline, np.uint8).reshape(-1, alike.COUNT)
    return {
        "coded": picture.content.digest.hexdigest(),
        "frames": base64.b64encode(alike.packed(frames)).decode(),
    }


def _tell(progress: Progress, part: PictureMeter | SoundMeter, total: float, began: float) -> None:
    elapsed = time.monotonic() - began
    share = min(1.0, part.clock / total) if total else 0.0
    progress(
        {
            "stage": "measure",
            "frame": part.count,
            "frames": None,
            "elapsed": elapsed,
            "share": share,
            "speed": part.clock / elapsed if elapsed else 0.0,
            "remaining": elapsed / share - elapsed if share > 0.02 else None,
        }
    )


def _truncation(
    path: str,
    facts: Facts,
    values: dict[str, Value | None],
    picture: PictureMeter | None,
    damaged: int,
) -> list[str]:
    """Say what shows that the file is cut short or damaged."""
    notes: list[str] = []
    if picture is not None and picture.count == 0:
        raise BadMedia(
            f"Not one picture of '{path.rsplit('/', 1)[-1]}' could be decoded.",
            "Ask for the file again.",
        )
    if damaged:
        notes.append(f"{damaged} packets could not be decoded: the file is damaged or cut short.")
    elif picture is not None and picture.corrupt:
        notes.append(
            f"{picture.corrupt} frames are damaged: the file is cut short or was not copied whole."
        )
    stated, found = facts.value("file.duration"), values.get("file.duration")
    if isinstance(stated, Fraction) and isinstance(found, Fraction):
        missing = stated - found
        if missing > max(Fraction(1, 2), stated / 50):
            why = "the file is cut short"
            if tracks_of(facts):
                # The header's length is that of the longest track, and nothing tells which it is.
                why = f"its captions run on beyond its end, or {why}"
            notes.append(
                f"{float(missing):.2f} s of the length in the header are not there: {why}."
            )
    return notes
