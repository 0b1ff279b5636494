"""Gathers what one sound stream holds: span, bytes, loudness, true peak, and at full depth what is
heard in it.
"""

from __future__ import annotations

from fractions import Fraction
from math import log10
from typing import Any

from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.packet import Packet

from ...core import formats
from ...core.facts.events import Event
from ...core.units import gating
from ...core.units.values import Value
from .. import names
from ..graphs import Filtered, loudness_meter
from . import ac3
from .sound_content import SoundContent

Span = tuple[Fraction, Fraction]


class SoundMeter:
    """Takes the packets of one sound stream in turn."""

    def __init__(self, stream: AudioStream, track: int, everything: bool) -> None:
        self.stream, self.track = stream, track
        self.count = self.bytes = self.samples = 0
        self.rate = int(stream.codec_context.sample_rate or 48000)
        self.first: Fraction | None = None
        self.last = Fraction(0)
        self._meter: Filtered | None = None
        self._everything = everything
        self.content: SoundContent | None = None
        self.speakers: str | None = None
        self.told = ac3.Told()
        row = formats.SOUND.get(formats.read_as(stream.codec_context.name))
        self._carries = row is not None and row.dialogue
        self.measured: dict[str, Fraction | None] = {}

    @property
    def clock(self) -> float:
        """Give the seconds that were heard."""
        return self.samples / self.rate

    @property
    def length(self) -> Fraction | None:
        """Give the time from the first sample to the end of the last."""
        return None if self.first is None else self.last - self.first

    def take(self, packet: Packet[Any]) -> None:
        """Take one packet."""
        self.bytes += packet.size
        if self.count == 0 and self.told.dialogue is None and self._carries:
            self.told = ac3.told(bytes(packet))
        for frame in packet.decode():
            assert isinstance(frame, AudioFrame)
            self.count += 1
            self.samples += frame.samples
            if frame.pts is not None:
                at = frame.pts * Fraction(frame.time_base or Fraction(1, frame.sample_rate))
                self.first = at if self.first is None else self.first
                self.last = at + Fraction(frame.samples, frame.sample_rate)
            if self.count == 1:
                self.rate = frame.sample_rate
                self.speakers = names.layout_speakers(frame.layout)
                if self._everything:
                    self.content = SoundContent(self.rate, len(frame.layout.channels), self.track)
            if self.content is not None:
                self.content.take(frame)
            self._hear(frame)

    def _hear(self, frame: AudioFrame | None) -> None:
        if self._meter is None:
            assert frame is not None
            self._meter = loudness_meter(frame, self.stream.time_base)
        for heard in self._meter.push(frame):
            said = heard.metadata
            if "lavfi.r128.I" not in said:
                continue
            self._note(said)

    def _note(self, said: dict[str, str]) -> None:
        momentary, short = number(said["lavfi.r128.M"]), number(said["lavfi.r128.S"])
        # The library says -70 where nothing was loud enough to count.
        whole = number(said["lavfi.r128.I"])
        self.measured["sound.loudness"] = whole
        self.measured["sound.loudness_range"] = number(said["lavfi.r128.LRA"])
        for key, value in (("sound.max_momentary", momentary), ("sound.max_short_term", short)):
            if value is not None and value > -100:
                known = self.measured.get(key)
                self.measured[key] = value if known is None else max(known, value)
        peaks = [float(v) for k, v in said.items() if k.startswith("lavfi.r128.true_peaks_ch")]
        if peaks:
            self.measured["sound.true_peak"] = number(f"{decibel(max(peaks)):.2f}")
        if self.content is not None:
            self.content.momentary.append(float(momentary) if momentary is not None else -120.0)
            self.content.short.append(float(short) if short is not None else -120.0)

    def finish(self) -> None:
        """Hear what is left in the meter."""
        if self._meter is not None:
            self._hear(None)
        if self.content is not None:
            self.content.finish()

    def facts(self, picture: Span | None, bars: bool) -> dict[str, Value | None]:
        """Give what was found.

        Args:
            picture: the time of the first picture and of the end of the last.
            bars: whether colour bars stand at the start: a tone that goes with them is line-up, and
                the loudness is that of what comes after it.
        """
        length = self.length
        values: dict[str, Value | None] = {
            "sound.bit_rate": int(Fraction(self.bytes * 8) / length) if length else None,
            "sound.speakers": self.speakers,
            "sound.dialogue_level": self.told.dialogue,
            "sound.bitstream_mode": self.told.mode,
            **self.measured,
        }
        if picture is not None and self.first is not None:
            values["sound.start_offset"] = self.first - picture[0]
            values["sound.length_difference"] = (self.last - self.first) - (picture[1] - picture[0])
        if self.content is not None:
            values |= self.content.facts()
            if bars:
                values |= self._of_programme(self.content)
        return values

    def _of_programme(self, content: SoundContent) -> dict[str, Value | None]:
        if not content.lined_up:
            return {}
        # The tone may end within the next.
        tenths = content.lined_up + 1
        momentary, short = content.momentary, content.short
        figures = {
            "sound.loudness": gating.integrated(momentary, tenths),
            "sound.loudness_range": gating.loudness_range(short, tenths),
            "sound.max_momentary": gating.loudest(momentary, tenths, gating.TENTHS_M),
            "sound.max_short_term": gating.loudest(short, tenths, gating.TENTHS_S),
        }
        return {
            key: None if figure is None or figure < -100 else Fraction(round(1000 * figure), 1000)
            for key, figure in figures.items()
        }

    def events(self, picture: Span | None, rate: Fraction | None) -> list[Event]:
        """Give what was heard at places in time."""
        if self.content is None or self.first is None:
            return []
        return self.content.events(
            self.first - (picture[0] if picture else self.first), rate if picture else None
        )


def number(text: str) -> Fraction | None:
    """Read a figure of the meter; None where it has none."""
    return None if text.lower() in {"nan", "-inf", "inf"} else Fraction(text)


def decibel(linear: float) -> float:
    """Give a linear level in dB."""
    return 20 * log10(linear) if linear > 1e-10 else -200.0
