"""How a stream is encoded, a type for each way in which its size comes about."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from math import ceil
from typing import Annotated, Literal

from pydantic import Field

from .. import formats
from ..formats.codec import USUAL, Pace, PictureCodec, SoundCodec
from ..formats.pixels import Pixels
from ..formats.size import Amount, ByContent, Lossless, RateControlled, exactly, payload_bytes
from ..units.parts import Exact, Part
from ..units.values import Value
from .sound_steps import SoundFormat
from .steps import PictureFormat

PictureFacts = Mapping[str, Value | None]


class _Picture(Part):
    """What every encoding of a picture has."""

    codec: str
    profile: str

    @property
    def row(self) -> PictureCodec:
        """Give the codec's row."""
        return formats.PICTURE[self.codec]


class RatedPicture(_Picture):
    """Picture whose encoder keeps to a rate.

    Attributes:
        level: as the codec names it; None where it has none.
        bit_rate, max_rate: b/s.
        buffer: the decoder's rate buffer (VBV), in bits.
        constant: whether the rate is filled up where the picture needs less.
        gop: frames from one key frame to the next at most.
        named: whether the stream's header names ceiling and buffer.
        coarsest: the quantiser that no frame is coded coarser than, on the codec's own scale; None
            where the rate alone decides.
        quantiser: that every frame is coded about, whatever that weighs, on the codec's own scale;
            None, as in all that is delivered, where the rate is kept to.
        mastering, light: the display that HDR was graded on, and how bright it gets, as their facts
            say it; empty where nothing is stated.
        captions: whether CEA-608/708 that comes with the frames is coded with them.
        pace: at which it is encoded (`PictureMaking.paces`).
    """

    kind: Literal["rate controlled"] = "rate controlled"
    level: str | None
    bit_rate: int
    max_rate: int
    buffer: int
    constant: bool
    passes: Literal[1, 2]
    gop: int
    b_frames: int
    reference_frames: int
    slices: int = 1
    named: bool = False
    coarsest: int | None = None
    quantiser: int | None = None
    mastering: str = ""
    light: str = ""
    captions: bool = False
    pace: Pace = USUAL

    @property
    def model(self) -> RateControlled:
        """Give how the codec's size comes about."""
        made = self.row.made
        assert made is not None and isinstance(made.size, RateControlled)
        return made.size

    @property
    def kept_to(self) -> int | None:
        """Give the rate that the encoder is to keep to, b/s; None where it is free."""
        return self.bit_rate if self.quantiser is None else None

    def amount(self, f: PictureFormat, frames: int) -> Amount:
        """Give the bytes of coded picture."""
        seconds = frames / f.rate
        return self.model.amount(self.bit_rate, self.max_rate, self.buffer, self.constant, seconds)

    def even(self, f: PictureFormat) -> bool:
        """Say whether every second weighs the same: frames that all have the same bytes, or a
        buffer that can hold nothing back.
        """
        alike = self.gop == 1 and self.buffer * f.rate <= 2 * self.bit_rate
        return self.constant and (alike or self.buffer * 33 <= self.bit_rate)

    def facts(self, f: PictureFormat) -> PictureFacts:
        """Give the facts that it adds to those of the format, or changes of them."""
        named = self.row.names_buffer == "always" or self.constant or self.named
        least = self.row.least_slices
        slices = self.slices if least is None else least(f.size, f.fields is not None)
        return {
            **_level(self.row, self.level),
            "picture.bit_rate": self.bit_rate,
            "picture.peak_bit_rate": self._peak(f),
            "picture.rate_mode": self._mode(f),
            "picture.vbv": self.buffer if named else None,
            "picture.vbv_rate": self.max_rate if named else None,
            "picture.slices": slices if self.row.sliced else None,
            "motion.intra_only": self.gop == 1,
            "motion.longest_gop": self.gop,
            "motion.b_frames": self.b_frames,
            "picture.mastering": self.mastering or None,
            "picture.light_level": self.light or None,
        }

    def _peak(self, f: PictureFormat) -> int:
        if self.even(f):
            return self.bit_rate
        if self.constant:
            return self.bit_rate + self.buffer
        return min(self.max_rate + self.buffer, self.bit_rate * 3)

    def _mode(self, f: PictureFormat) -> str | None:
        """Name the rate mode. A variable rate, or a constant one through a larger buffer, may come
        out even or not: measuring tells.
        """
        return "constant" if self.even(f) else None


class PictureByContent(_Picture):
    """Picture whose every frame is as big as it needs, up to its profile's ceiling."""

    kind: Literal["by content"] = "by content"
    passes: Literal[1] = 1

    @property
    def model(self) -> ByContent:
        """Give how the codec's size comes about."""
        made = self.row.made
        assert made is not None and isinstance(made.size, ByContent)
        return made.size

    def ceiling(self, f: PictureFormat) -> int:
        """Give the bits a macroblock that the encoder keeps to."""
        return self.model.ceiling(self.profile, f.size, f.alpha)

    def frame_bytes(self, f: PictureFormat) -> int:
        """Give the bytes that a frame has at most, its transparency not counted."""
        return self.model.amount(self.profile, f.size, False, 1).expected

    def amount(self, f: PictureFormat, frames: int) -> Amount:
        """Give the bytes of coded picture."""
        return self.model.amount(self.profile, f.size, f.alpha, frames)

    def facts(self, f: PictureFormat) -> PictureFacts:
        """Give the facts that it adds to those of the format, or changes of them; its rate is only
        known when it is made.
        """
        profile = self.row.profile(self.profile)
        assert profile is not None
        return {
            "picture.bit_depth": profile.read_depth or f.depth,
            "motion.intra_only": True,
            "motion.longest_gop": 1,
            "motion.b_frames": 0,
        }


class PictureFixed(_Picture):
    """Picture whose frames all have the same bytes.

    Attributes:
        level: as the codec names it; None where it has none.
    """

    kind: Literal["fixed per frame"] = "fixed per frame"
    passes: Literal[1] = 1
    level: str | None = None
    frame_bytes: int
    gop: Literal[1] = 1

    def amount(self, f: PictureFormat, frames: int) -> Amount:
        """Give the bytes of coded picture."""
        return exactly(self.frame_bytes * frames)

    def facts(self, f: PictureFormat) -> PictureFacts:
        """Give the facts that it adds to those of the format, or changes of them."""
        bits, row = 8 * self.frame_bytes, self.row
        slices = row.least_slices
        return {
            **_level(row, self.level),
            "picture.vbv": bits if row.names_buffer == "always" else None,
            "picture.vbv_rate": self._named_rate(f) if row.names_buffer == "always" else None,
            "picture.slices": slices(f.size, f.fields is not None) if slices else None,
            "picture.bit_rate": int(bits * f.rate),
            "picture.peak_bit_rate": bits * ceil(f.rate),
            "picture.rate_mode": "constant",
            "motion.intra_only": True,
            "motion.longest_gop": 1,
            "motion.b_frames": 0,
        }

    def _named_rate(self, f: PictureFormat) -> int:
        unit = self.row.rate_unit
        return -(-int(8 * self.frame_bytes * f.rate) // unit) * unit


class PictureLossless(_Picture):
    """Picture of which every sample comes back as it was."""

    kind: Literal["lossless"] = "lossless"
    passes: Literal[1] = 1

    def amount(self, f: PictureFormat, frames: int) -> Amount:
        """Give the bytes of coded picture."""
        made = self.row.made
        assert made is not None and isinstance(made.size, Lossless)
        return made.size.amount(f.size, Pixels(f.chroma, f.depth, f.alpha), frames)

    def facts(self, f: PictureFormat) -> PictureFacts:
        """Give the facts that it adds to those of the format, or changes of them; its rate is only
        known when it is made.
        """
        return {"motion.intra_only": True, "motion.longest_gop": 1, "motion.b_frames": 0}


def _level(row: PictureCodec, level: str | None) -> PictureFacts:
    if row.levels is None or row.levels.number is None or level is None:
        return {}  # no stream of it says which level it has
    return {row.levels.key: level if row.levels.named_with_profile else Fraction(level)}


PictureEncoding = Annotated[
    RatedPicture | PictureByContent | PictureFixed | PictureLossless, Field(discriminator="kind")
]


class _Sound(Part):
    """What every encoding of sound has."""

    codec: str

    @property
    def row(self) -> SoundCodec:
        """Give the codec's row."""
        return formats.SOUND[self.codec]


class RatedSound(_Sound):
    """Sound whose encoder keeps to a rate.

    Attributes:
        bit_rate: b/s.
        dialogue: the level of dialogue that it carries, LUFS; None where it carries none.
        mode: what it says that it is for; empty where it says nothing.
    """

    kind: Literal["rate controlled"] = "rate controlled"
    bit_rate: int
    dialogue: int | None = None
    mode: str = ""

    @property
    def depth(self) -> None:
        """Give no depth: coded sound has none."""
        return

    def rate(self, f: SoundFormat) -> int:
        """Give its b/s."""
        return self.bit_rate

    def amount(self, f: SoundFormat, seconds: Fraction) -> Amount:
        """Give the bytes of coded sound; an encoder that saves on quiet places may take fewer, and
        every one ends with a whole frame.
        """
        making = self.row.made
        expected = payload_bytes(self.bit_rate, seconds)
        padded = Fraction(2 * self.row.frame_samples, f.sample_rate)
        even = making is not None and making.even
        return Amount(
            expected if even else 0, expected, payload_bytes(self.bit_rate, seconds + padded)
        )


class PlainSound(_Sound):
    """Samples as they are: their number decides the size."""

    kind: Literal["plain"] = "plain"

    @property
    def depth(self) -> int | None:
        """Give the bits a sample."""
        return self.row.made_depth

    def rate(self, f: SoundFormat) -> int:
        """Give its b/s."""
        return f.sample_rate * f.channels * (self.row.made_depth or 16)

    def amount(self, f: SoundFormat, seconds: Fraction) -> Amount:
        """Give the bytes of the samples, and of what stands before each packet of them."""
        samples = payload_bytes(self.rate(f), seconds)
        if self.row.packets is None:
            return exactly(samples)
        size, head = self.row.packets
        heads = -(-samples // size) * head
        # Packets hold whole groups of samples, so that some are smaller.
        return Amount(samples, samples + heads, samples + 2 * heads)


class LosslessSound(_Sound):
    """Samples coded so that each comes back as it was: what there is to hear decides the size.

    Attributes:
        depth: bits a sample.
    """

    kind: Literal["lossless"] = "lossless"
    depth: int

    def rate(self, f: SoundFormat) -> None:
        """Give no rate: it is known when it is made."""
        return

    def amount(self, f: SoundFormat, seconds: Fraction) -> Amount:
        """Give the bytes of coded sound: next to nothing for silence, and for noise no more than
        the samples themselves with a head a frame.
        """
        plain = payload_bytes(f.sample_rate * f.channels * self.depth, seconds)
        frames = ceil(seconds * f.sample_rate / self.row.frame_samples) + 1
        return Amount(0, plain * 3 // 5, plain + 64 * f.channels * frames)


class QualitySound(_Sound):
    """Sound whose encoder keeps to a quality, from 0 to 1: what there is to hear decides the size.

    Attributes:
        usual: b/s that sound of that quality usually has.
    """

    kind: Literal["constant quality"] = "constant quality"
    quality: Exact
    usual: int

    @property
    def depth(self) -> None:
        """Give no depth: coded sound has none."""
        return

    def rate(self, f: SoundFormat) -> None:
        """Give no rate: it is known when it is made."""
        return

    def amount(self, f: SoundFormat, seconds: Fraction) -> Amount:
        """Give the bytes of coded sound: little for silence, and for noise half as much again as is
        usual (tried); and what its tables take.
        """
        expected = payload_bytes(self.usual, seconds)
        return Amount(0, expected, expected * 3 // 2 + 16384)


SoundEncoding = Annotated[
    RatedSound | PlainSound | LosslessSound | QualitySound, Field(discriminator="kind")
]
