"""Ranges of a master whose picture is framed otherwise than the rest of it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import pairwise

from ..errors import BadValue, Impossible
from ..facts import Facts
from ..units import geometry
from .notes import NOTHING, Notes, step

REFRAMED = "reframed"
MOST = 40  # ranges
EXAMPLE = "such as 250-324: 1440 x 1080 + 240 + 0, crop"
FORM = re.compile(
    r"(?P<first>\d{1,9})-(?P<last>\d{1,9}):(?P<region>[^,]*?)(,?\s*(?P<framing>[a-z]+))?\s*"
)
FRAMINGS = ("pad", "crop", "stretch")


@dataclass(frozen=True)
class Range:
    """A range that is framed in a way of its own.

    Attributes:
        first, last: frames of the master's file, counted from 0, both within.
        region: the part of the picture that goes out (`region.region_of`); "" for all.
        framing: pad, crop or stretch; "" for what the rest has.
    """

    first: int
    last: int
    region: str = ""
    framing: str = ""

    @property
    def way(self) -> tuple[str, str]:
        """Give how it is framed."""
        return self.region, self.framing


def read(text: str) -> tuple[Range, ...]:
    """Read ranges: "FIRST-LAST: REGION, FRAMING", with semicolons between; either may be left out.

    Raises:
        BadValue: one is none, names no way of framing, or they overlap or are too many.
    """
    found = tuple(_read(part.strip()) for part in text.split(";") if part.strip())
    if len(found) > MOST:
        raise BadValue(f"{len(found)} ranges are too many.", f"Frame {MOST} otherwise at most.")
    ordered = tuple(sorted(found, key=lambda one: one.first))
    for one, other in pairwise(ordered):
        if other.first <= one.last:
            raise BadValue(
                f"The ranges {one.first}-{one.last} and {other.first}-{other.last} overlap.",
                "Let one begin behind the other's end.",
            )
    return ordered


def _read(text: str) -> Range:
    found = FORM.fullmatch(text)
    if found is None:
        raise BadValue(f"'{text}' is no range that is framed otherwise.", f"Write it {EXAMPLE}.")
    first, last = int(found["first"]), int(found["last"])
    if last < first:
        raise BadValue(f"The range {first}-{last} ends before it begins.", "Turn it round.")
    framing, region = found["framing"] or "", found["region"].strip()
    if framing not in ("", *FRAMINGS):
        raise BadValue(f"'{framing}' is no framing.", "Choose pad, crop or stretch.")
    shown = str(geometry.read_rect(region)) if region else ""
    return Range(first, last, shown, framing)


def shown(ranges: tuple[Range, ...]) -> str:
    """Write ranges as they are read."""
    return "; ".join(
        f"{one.first}-{one.last}: {', '.join(filter(None, one.way))}".rstrip() for one in ranges
    )


def range_at(ranges: tuple[Range, ...], frame: int) -> int | None:
    """Give the place of the range that a frame lies in; None where it lies in none."""
    return next((n for n, one in enumerate(ranges) if one.first <= frame <= one.last), None)


def check(ranges: tuple[Range, ...], master: Facts, uneven: bool) -> None:
    """Make sure that ranges lie within a master, whose frames are `uneven` in length or not.

    Raises:
        BadValue: one does not.
        Impossible: its frames do not last equally long, so that ranges are no frames of what is
            made.
    """
    if uneven:
        raise Impossible(
            "The master's frames do not last equally long: what is made of a range of them is not "
            "known before.",
            "Frame all of it alike, or hand in a master whose frames do.",
        )
    frames = int(master.value("motion.frames") or 0)
    for one in ranges:
        if frames and one.last >= frames:
            raise BadValue(
                f"The range {one.first}-{one.last} ends behind the last frame, {frames - 1}.",
                "Let it end there.",
            )


def told(ranges: tuple[Range, ...], usual: str) -> Notes:
    """Tell of ranges in a route; `usual` is the framing of the rest."""
    if not ranges:
        return NOTHING
    each = [
        f"{one.first} to {one.last}: {one.region or 'all of the picture'}, {one.framing or usual}"
        for one in ranges
    ]
    many = "1 range is" if len(ranges) == 1 else f"{len(ranges)} ranges are"
    return step(
        f"{many} framed otherwise",
        f"As chosen, by the master's frames: {'; '.join(each)}.",
        "picture.size",
        "picture.display_aspect",
    )
