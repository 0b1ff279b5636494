"""VC-3 (SMPTE ST 2019-1), and its kind that goes with any frame size.

Every frame has the same bytes. Those of the compression ids at 1920x1080, 1440x1080, 1280x720 and
960x720 are from memory, as is how the others come about: macroblocks times a scale, in whole units
of 4096. The conformance test holds both against what the codec library makes.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from ..units.fields import FieldOrder
from ..units.values import Size
from .codec import PictureCodec, PictureMaking, Profile, of
from .pixels import Y22_ALONE, Y24_ALONE, Pixels
from .size import FixedPerFrame, Frame

PLAIN, DEEP, WIDE = Pixels("4:2:2", 8), Pixels("4:2:2", 10), Pixels("4:4:4", 10)
HD, NARROW, SMALL = Size(1920, 1080), Size(1440, 1080), Size(1280, 720)


WIDER = Fraction(4, 3)  # pixels of frames that are squeezed


def _whole(size: Size, pixels: Pixels, aspect: Fraction | None = None) -> Frame:
    return Frame(size, None, None, pixels, aspect)


def _woven(size: Size, pixels: Pixels) -> Frame:
    return Frame(size, None, FieldOrder.UPPER, pixels)


# Bytes a frame of the compression ids, by the frames that they are for.
IDS: dict[Frame, tuple[int, ...]] = {
    _whole(HD, PLAIN): (188_416, 606_208, 917_504),
    _whole(HD, DEEP): (917_504,),
    _woven(HD, PLAIN): (606_208, 917_504),
    _woven(HD, DEEP): (917_504,),
    _whole(NARROW, PLAIN, WIDER): (417_792,),
    _whole(SMALL, PLAIN): (303_104, 458_752),
    _whole(SMALL, DEEP): (458_752,),
    _whole(Size(960, 720), PLAIN, WIDER): (212_992,),
}
# Of the kind that goes with any frame: bytes a macroblock.
SCALES = {
    "dnxhr lb": Fraction(5888, 255),
    "dnxhr sq": Fraction(17408, 255),
    "dnxhr hq": Fraction(28672, 255),
    "dnxhr hqx": Fraction(28672, 255),
    "dnxhr 444": Fraction(57344, 255),
}
UNIT = 4096


def sizes(profile: str, frame: Frame) -> Sequence[int]:
    """Give the bytes that a frame may have, least first."""
    if profile not in SCALES:
        order = FieldOrder.UPPER if frame.fields else None
        like = frame._replace(rate=None, fields=order)
        return IDS.get(like) or IDS.get(like._replace(aspect=None)) or ()
    size = frame.size
    blocks = -(-size.width // 16) * -(-size.height // 16)
    units = int(blocks * SCALES[profile] + UNIT // 2) // UNIT
    return [max(2, units) * UNIT]


def holds(profile: str) -> Sequence[Frame]:
    """Give the only frames that a profile holds."""
    return () if profile in SCALES else tuple(IDS)


def _scaled(name: str, pixels: Pixels, depth: int) -> Profile:
    chromas = Y24_ALONE if pixels.chroma == "4:4:4" else Y22_ALONE
    return Profile(name, chromas, depth, made=(pixels,), fields=False, source="ST 2019-1")


def unstated(profile: str, wrapper: str) -> frozenset[str]:
    """Give what nobody states: MXF describes 4:4:4 as it does R'G'B'."""
    return of("picture.range") if (profile, wrapper) == ("dnxhr 444", "mxf") else of()


CODECS = (
    PictureCodec(
        "dnxhd",
        "VC-3",
        wrappers=of("mxf", "mov"),
        profiles=(
            Profile("dnxhd", Y22_ALONE | Y24_ALONE, 10, made=(PLAIN, DEEP)),
            _scaled("dnxhr lb", PLAIN, 8),
            _scaled("dnxhr sq", PLAIN, 8),
            _scaled("dnxhr hq", PLAIN, 8),
            _scaled("dnxhr hqx", DEEP, 12),
            _scaled("dnxhr 444", WIDE, 12),
        ),
        intra=True,
        tags=("AVdn", "AVdh"),
        made=PictureMaking(
            "dnxhr hq",
            of("mxf", "mov"),
            FixedPerFrame(sizes, holds),
            40.0,
            frames_alone=True,
            unstated=unstated,
        ),
    ),
)
