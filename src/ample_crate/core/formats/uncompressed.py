"""Uncompressed picture, as MOV carries it: 10-bit 4:2:2 (six samples in 16 bytes, lines to 48
samples), 10-bit R'G'B' (a word of 32 bit a sample, lines to 64), 8-bit 4:2:2.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from .codec import PictureCodec, PictureMaking, of
from .pixels import RGB, Pixels
from .size import FixedPerFrame, Frame

DEEP, PLAIN, RGB10 = Pixels("4:2:2", 10), Pixels("4:2:2", 8), Pixels(RGB, 10)


def _unstated(*properties: str) -> Callable[[str, str], frozenset[str]]:
    return lambda profile, wrapper: of(*properties)


def _lines(pixels: Pixels, samples: int, size: int) -> FixedPerFrame:
    """Give how big frames are whose lines are filled up to so many samples of so many bytes."""

    def sizes(profile: str, frame: Frame) -> Sequence[int]:
        width, height = frame.size
        held = frame.pixels == pixels
        return (-(-width // samples) * size * height,) if held else ()

    return FixedPerFrame(sizes)


def _plain(key: str, label: str, tag: str, pixels: Pixels, line: tuple[int, int]) -> PictureCodec:
    colour = ("picture.matrix", "picture.primaries", "picture.transfer")
    nobody = ("picture.range", *(colour if pixels.chroma == RGB else ()))
    return PictureCodec(
        key,
        label,
        wrappers=of("mov"),
        interlaced=pixels.chroma != RGB,
        rated=False,
        intra=True,
        tags=(tag,),
        made=PictureMaking(
            "",
            of("mov"),
            _lines(pixels, *line),
            120.0,
            # Nobody says of R'G'B' that it has fields.
            fields=pixels.chroma != RGB,
            layouts=(pixels,),
            unstated=_unstated(*nobody),
        ),
    )


CODECS = (
    _plain("v210", "uncompressed 4:2:2, 10 bit", "v210", DEEP, (48, 128)),
    _plain("r210", "uncompressed R'G'B', 10 bit", "r210", RGB10, (64, 256)),
    _plain("rawvideo", "uncompressed 4:2:2, 8 bit", "2vuy", PLAIN, (2, 4)),
)
