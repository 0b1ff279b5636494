"""How the size of coded picture comes about: few ways, and each codec has one of them.

Each says what can be set, and how big coded picture will be: the least, what is expected, the most.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import ceil
from typing import NamedTuple

from ..units.fields import FieldOrder
from ..units.values import Size, show_rate, show_ratio
from .pixels import Pixels

USUAL_RATE = 8_000_000  # b/s of H.264 at 1280x720 and 25 fps; common practice
# Samples of a picture by those of its luma.
SAMPLES = {"4:2:0": Fraction(3, 2), "4:2:2": Fraction(2), "4:4:4": Fraction(3)}
USUAL_SAMPLES = 1280 * 720 * 25  # luma samples a second


@dataclass(frozen=True)
class Amount:
    """Bytes: the least that they can be, what is expected, the most."""

    least: int
    expected: int
    most: int

    def __add__(self, other: Amount) -> Amount:
        return Amount(
            self.least + other.least, self.expected + other.expected, self.most + other.most
        )


def exactly(count: int) -> Amount:
    """Give an amount that is known."""
    return Amount(count, count, count)


def payload_bytes(bit_rate: int, seconds: Fraction) -> int:
    """Give the bytes that a bit rate makes over a time."""
    return ceil(Fraction(bit_rate) * seconds / 8)


@dataclass(frozen=True)
class RateControlled:
    """The encoder is given a rate, a ceiling and a buffer, and keeps to them.

    Attributes:
        weight: bits that pictures alike take, as a multiple of those of H.264 (common practice).
        two_passes: whether the encoder can look first and spend then.
        fills: whether a constant rate is filled up where the picture needs less.
        finer: for an encoder that does not fill up, quantisers that no frame is to be coded coarser
            than, and how many times an easy picture grows by each, coarsest first.
        ladder: quantisers on the encoder's own scale, each of which leaves about half of the bytes
            of the one before.
    """

    weight: Fraction = Fraction(1)
    two_passes: bool = False
    fills: bool = True
    finer: tuple[tuple[int, Fraction], ...] = ()
    ladder: tuple[int, ...] = (4, 10, 16, 22, 28, 34, 40, 46)

    def usual(self, size: Size, rate: Fraction) -> int:
        """Give a usual bit rate in b/s: 8 Mb/s for 720p25 H.264, in proportion to samples."""
        samples = size.width * size.height * rate
        base = USUAL_RATE * samples / USUAL_SAMPLES
        return int(base * self.weight) // 1000 * 1000

    def amount(
        self, bit_rate: int, max_rate: int, buffer: int, constant: bool, seconds: Fraction
    ) -> Amount:
        """Give the bytes of coded picture.

        A decoder's buffer is filled at the ceiling and never runs dry: no more than ceiling times
        length and the buffer's own bits pass through it. A constant rate fills it as evenly; of a
        variable one, a still picture takes next to nothing.
        """
        expected = payload_bytes(bit_rate, seconds)
        kept = ceil(buffer / 8)
        most = payload_bytes(max_rate, seconds) + kept
        least = max(0, expected - kept) if constant else 0
        return Amount(least, expected, max(most, expected))


@dataclass(frozen=True)
class ByContent:
    """Each frame is as big as its picture needs, up to a ceiling of its profile.

    Attributes:
        ceilings: by profile, the most bits that a macroblock (16 x 16 samples) has on average over
            a frame; a pair each: macroblocks of a frame up to which it holds, and the bits.
        least: bits of a macroblock in which there is nothing to see.
        overshoot: by how much a frame may pass the ceiling, as a share.
        transparent: bits a sample of transparency: those that the ceiling is raised by, and the
            most that it can take.
    """

    ceilings: Mapping[str, tuple[tuple[int, int], ...]]
    least: int
    overshoot: Fraction
    transparent: tuple[int, int] = (0, 0)

    def ceiling(self, profile: str, size: Size, alpha: bool) -> int:
        """Give the bits a macroblock that an encoder keeps to."""
        blocks = _blocks(size)
        rows = self.ceilings[profile]
        bits = next((bits for most, bits in rows if blocks <= most), rows[-1][1])
        return bits + (256 * self.transparent[0] if alpha else 0)

    def amount(self, profile: str, size: Size, alpha: bool, frames: int) -> Amount:
        """Give the bytes of coded picture.

        What is expected is the ceiling itself: the published rates are those of pictures of a
        camera, and only smooth or drawn ones stay below.
        """
        blocks = _blocks(size) * frames
        expected = self.ceiling(profile, size, alpha) * blocks
        most = ceil(expected * (1 + self.overshoot))
        if alpha:
            most += 256 * self.transparent[1] * blocks
        return Amount(self.least * blocks // 8, expected // 8, ceil(most / 8))


class Frame(NamedTuple):
    """A picture as it weighs on a codec whose frames all have the same bytes.

    Attributes:
        rate: frames a second; None where it does not matter.
        aspect: of a pixel; None where it does not matter.
    """

    size: Size
    rate: Fraction | None
    fields: FieldOrder | None
    pixels: Pixels
    aspect: Fraction | None = None

    def __str__(self) -> str:
        scan = "in whole frames" if self.fields is None else f"in fields, {self.fields.value}"
        rate = "" if self.rate is None else f", {show_rate(self.rate)}"
        aspect = "" if self.aspect is None else f", pixel aspect {show_ratio(self.aspect)}"
        return f"{self.size}{aspect} {scan}{rate}, {self.pixels}"


@dataclass(frozen=True)
class FixedPerFrame:
    """Every frame has the same bytes, which follow from the profile and the picture.

    Attributes:
        sizes: gives the bytes that a frame of a profile may have, least first; none for a picture
            that the profile does not hold.
        holds: gives the only frames that a profile holds; none where it takes any.
    """

    sizes: Callable[[str, Frame], Sequence[int]]
    holds: Callable[[str], Sequence[Frame]] = lambda profile: ()

    def says(self, profile: str) -> str:
        """Say which frames a profile holds."""
        return (
            "; ".join(dict.fromkeys(str(frame) for frame in self.holds(profile))) or "whole frames"
        )


@dataclass(frozen=True)
class Lossless:
    """Every sample comes back as it was: what there is to see decides the size.

    Attributes:
        head: bytes of a frame besides its samples, at most.
    """

    head: int = 4096

    def amount(self, size: Size, pixels: Pixels, frames: int) -> Amount:
        """Give the bytes of coded picture: next to nothing for what is even, and for noise hardly
        more than the samples themselves.
        """
        parts = SAMPLES.get(pixels.chroma, Fraction(3)) + pixels.alpha
        plain = ceil(size.width * size.height * parts * _bytes(pixels.depth)) * frames
        most = plain + plain // 50 + self.head * frames
        return Amount(0, min(plain * 3 // 5 + self.head * frames, most), most)


def _bytes(depth: int) -> int:
    return -(-depth // 8)


def _blocks(size: Size) -> int:
    return -(-size.width // 16) * -(-size.height // 16)


SizeModel = RateControlled | ByContent | FixedPerFrame | Lossless
