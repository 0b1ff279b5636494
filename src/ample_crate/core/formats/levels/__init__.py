"""What the levels of each codec hold: one question over all of them."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ...units.values import Size, show_bit_rate
from . import h264, h265, mpeg2


@dataclass(frozen=True)
class Held:
    """A codec's level as it concerns a spec.

    Attributes:
        name: the level as it is spoken, "4.1"; for MPEG-2 with its profile, "main@main".
        bit_rate: the most that it allows, in b/s.
        buffer: bits of the buffer that a decoder of it has.
        says: what it holds, in words.
        source: the published table.
    """

    name: str
    bit_rate: int
    buffer: int
    says: str
    source: str


def _number(value: Fraction) -> str:
    return f"{float(value):g}"


def levels(codec: str, profile: str = "") -> list[Held]:
    """List the levels of a codec, lowest first; none where the codec has no levels known here."""
    if codec == "h264":
        kind = profile or "high"
        return [
            Held(
                _number(v.number),
                h264.max_bit_rate(v, kind),
                h264.max_buffer(v, kind),
                f"{v.max_fs} macroblocks a frame, {v.max_mbps} a second, "
                f"{show_bit_rate(h264.max_bit_rate(v, kind))} in {kind}",
                "ITU-T H.264 Table A-1",
            )
            for v in h264.TABLE_A_1
        ]
    if codec == "hevc":
        kind = profile or "main"
        return [
            # MaxCPB is MaxBR in bits, but at level 1 (Tables A.8, A.9).
            Held(
                _number(v.number),
                h265.max_bit_rate(v, kind, high_tier=True),
                h265.max_bit_rate(v, kind, high_tier=True),
                f"{v.max_luma_ps} samples a picture, {v.max_luma_sr} a second, "
                f"{show_bit_rate(h265.max_bit_rate(v, kind))} in the main tier",
                "ITU-T H.265 Tables A.8 and A.9",
            )
            for v in h265.TABLES_A_8_A_9
        ]
    if codec == "mpeg2video":
        return [
            Held(
                v.name,
                v.bit_rate,
                v.buffer,
                f"{v.width} x {v.height} at up to {v.rate} fps, {show_bit_rate(v.bit_rate)}",
                "ISO/IEC 13818-2 Tables 8-11 to 8-13",
            )
            for v in mpeg2.LEVELS
        ]
    return []


def holds(
    codec: str, level: str, size: Size, rate: Fraction, interlaced: bool = False
) -> bool | None:
    """Say whether a level holds a frame size at a rate, with one frame kept for reference; None
    where the level is not known.
    """
    if codec == "mpeg2video":
        found = mpeg2.by_name(level)
        return None if found is None else mpeg2.holds_picture(found, size, rate)
    try:
        number = Fraction(level)
    except ValueError:
        return None
    if codec == "h264":
        one = h264.by_number(number)
        return None if one is None else h264.holds_picture(one, size, rate, interlaced)
    other = (
        next((v for v in h265.TABLES_A_8_A_9 if v.number == number), None)
        if codec == "hevc"
        else None
    )
    return None if other is None else h265.holds_picture(other, size, rate)


def lowest(
    codec: str,
    profile: str,
    size: Size,
    rate: Fraction,
    bit_rate: int = 0,
    interlaced: bool = False,
) -> Held | None:
    """Find the lowest level that holds a picture at a bit rate, or None where none does."""
    mine = [
        v
        for v in levels(codec, profile)
        if codec != "mpeg2video" or v.name.startswith(f"{profile or 'main'}@")
    ]
    if codec == "h264" and interlaced:
        mine = [
            v
            for v in mine
            if (one := h264.by_number(Fraction(v.name))) is not None and h264.codes_fields(one)
        ]
    return next(
        (
            v
            for v in mine
            if holds(codec, v.name, size, rate, interlaced) and bit_rate <= v.bit_rate
        ),
        None,
    )


def load(codec: str, size: Size, rate: Fraction, interlaced: bool = False) -> str:
    """Say what a picture weighs in the units of a codec's levels."""
    if codec == "h264":
        blocks = h264.macroblocks(size, interlaced)
        return (
            f"{size} is {blocks} macroblocks, {float(blocks * rate):.0f} "
            f"a second at {float(rate):g} fps"
        )
    return (
        f"{size} at {float(rate):g} fps is "
        f"{float(size.width * size.height * rate):.0f} samples a second"
    )
