"""What an editor of specs can offer for each property: operators, usual values, the unit of bare
numbers.
"""

from __future__ import annotations

from fractions import Fraction

from ..facts.properties import Property
from .rules import OPERATORS, RANGES

RATES = tuple(
    Fraction(n, d)
    for n, d in (
        (24000, 1001),
        (24, 1),
        (25, 1),
        (30000, 1001),
        (30, 1),
        (50, 1),
        (60000, 1001),
        (60, 1),
    )
)
SIZES = (
    "720x480",
    "720x486",
    "720x512",
    "720x576",
    "720x608",
    "1080x1080",
    "1280x720",
    "1440x1080",
    "1920x1080",
    "1998x1080",
    "2048x1080",
    "3840x2160",
    "4096x2160",
)
UNITS = {
    "seconds": "s",
    "bytes": "MB",
    "bit_rate": "Mb/s",
    "bit_count": "bits",
    "hertz": "kHz",
    "lu": "LU",
    "lufs": "LUFS",
    "dbtp": "dBTP",
    "rate": "fps",
    "percent": "%",
    "bits": "bit",
    "degrees": "°",
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


def unit(prop: Property) -> str:
    """Give the unit of a bare figure in an editor."""
    return prop.unit or UNITS.get(prop.kind.name, "")


def closed(prop: Property) -> bool:
    """Say whether a property can have no other values than those listed."""
    return prop.words is not None and prop.words.closed


def values(prop: Property) -> list[tuple[str, str]]:
    """List the usual values of a property, as they are kept and as they are said; unless it is
    closed another may be written.
    """
    listed = prop.words.known if prop.words is not None else prop.usual
    said = [prop.kind.show(v) if prop.words is not None else v for v in listed]
    # Two that are said alike, such as PCM of either byte order, are told apart by their names.
    return [
        (v, s if said.count(s) == 1 else f"{s} ({v})") for v, s in zip(listed, said, strict=True)
    ]
