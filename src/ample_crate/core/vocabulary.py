"""What an editor of specs can offer for each property: operators, usual values, the unit of bare numbers."""

from __future__ import annotations

from fractions import Fraction

from . import carriage, codecs
from .levels import mpeg2
from .properties import Property
from .rules import OPERATORS, RANGES

RATES = tuple(Fraction(n, d) for n, d in ((24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1), (50, 1), (60000, 1001), (60, 1)))
SIZES = ("720x480", "720x486", "720x512", "720x576", "720x608", "1080x1080", "1280x720", "1440x1080", "1920x1080", "1998x1080", "2048x1080", "3840x2160", "4096x2160")
UNITS = {
    "seconds": "s", "bytes": "MB", "bit_rate": "Mb/s", "bit_count": "bits", "hertz": "kHz", "lu": "LU", "lufs": "LUFS", "dbtp": "dBTP", "rate": "fps",
    "percent": "%", "bits": "bit", "degrees": "°",
}  # fmt: skip
VALUES: dict[str, tuple[str, ...]] = {
    "picture.codec": tuple(carriage.PICTURE),
    "picture.profile": tuple(dict.fromkeys(p for c in carriage.PICTURE.values() for p in c.profiles)),
    "picture.tag": ("avc1", "hvc1", "hev1", "apcn", "apch", "ap4h", "Hap1", "Hap5", "HapY"),
    "picture.chroma": ("4:2:0", "4:2:2", "4:4:4"),
    "picture.bit_depth": ("8", "10", "12", "16"),
    "picture.pixel_aspect": ("1:1", "64:45", "32:27", "16:11", "40:33", "16:15", "8:9", "12:11", "10:11"),
    "picture.display_aspect": ("16:9", "4:3", "1:1", "37:20", "239:100"),
    "picture.alpha_mode": ("straight", "premultiplied"),
    "picture.alpha_use": ("used", "wholly opaque", "wholly clear"),
    "picture.range": ("limited", "full"),
    "picture.matrix": ("BT.601", "BT.709", "BT.2020", "RGB"),
    "picture.primaries": ("BT.601", "BT.709", "BT.2020"),
    "picture.transfer": ("BT.709", "BT.601", "BT.2020", "PQ", "HLG", "log", "linear", "sRGB"),
    "picture.rate_mode": ("constant", "variable"),
    "motion.scan": ("progressive", "interlaced"),
    "motion.field_order": ("upper first", "lower first", "none"),
    "sound.codec": tuple(carriage.SOUND),
    "sound.sample_rate": ("22.05 kHz", "32 kHz", "44.1 kHz", "48 kHz", "96 kHz"),
    "sound.layout": tuple(carriage.CHANNELS),
    "sound.bit_depth": ("16", "24", "32"),
    "sound.language": ("eng", "fra", "deu", "spa", "nld", "swe", "nor"),
    "file.wrapper": (*codecs.WRAPPER_LABELS, "webm", "mpeg-es", "h264-es", "still image", "image sequence", "wav", "aiff"),
    "file.start_timecode": ("00:00:00:00", "01:00:00:00", "10:00:00:00"),
}


def operators(prop: Property) -> list[str]:
    """List the operators that mean something for a property."""
    found = []
    for name in OPERATORS:
        if name in RANGES and not (prop.kind.ordered or prop.kind.name == "size"):
            continue
        if name == "matches" and prop.kind.name not in {"text", "name"}:
            continue
        if prop.kind.name == "flag" and name not in {"is", "present", "same_as"}:
            continue
        if prop.group == "delivery" and name in {"present", "same_as"}:
            continue
        found.append(name)
    return found


def values(prop: Property) -> list[str]:
    """List the usual values of a property; another may be written."""
    if prop.key == "picture.profile_level":
        return [level.name for level in mpeg2.LEVELS]
    return list(VALUES.get(prop.key, ()))
