"""What is burnt into a picture for review: a timecode, a name, a watermark."""

from __future__ import annotations

from collections.abc import Mapping

from ..errors import BadValue
from ..units import timecode
from ..units.parts import Exact, Part
from .titles import titles

BURN_IN, WATERMARK = "burn_in", "watermark"
TIMECODE, NAME = "timecode", "name"
KINDS = (TIMECODE, NAME)
LONGEST = 60  # letters of a watermark: more would be too small to read


class BurnIn(Part):
    """What is burnt into every frame of a programme.

    Attributes:
        start: the label of its first frame, in frames; None for no timecode.
        rate: frames a second, by which labels are written.
        drop: whether labels are dropped.
        name: at the top; empty for none.
        watermark: across the middle; empty for none.
    """

    start: int | None = None
    rate: Exact
    drop: bool = False
    name: str = ""
    watermark: str = ""

    def label(self, place: int) -> str:
        """Give the timecode of a frame, counted from the programme's first; "" for none."""
        if self.start is None:
            return ""
        return timecode.show(self.start + place, self.rate, self.drop)

    def later(self, frames: int) -> BurnIn:
        """Give what is burnt into the frames from so many later on."""
        if self.start is None:
            return self
        return self.model_copy(update={"start": self.start + frames})


def read(text: str) -> tuple[str, ...]:
    """Read what is burnt in: "timecode, name".

    Raises:
        BadValue: something else is named.
    """
    parts = [one.strip() for one in text.split(",") if one.strip()]
    for one in parts:
        if one not in KINDS:
            raise BadValue(f"'{one}' is not burnt in.", f"Choose {' or '.join(KINDS)}, or both.")
    return tuple(kind for kind in KINDS if kind in parts)


def read_watermark(text: str) -> str:
    """Read a watermark.

    Raises:
        BadValue: it is too long to be read in a picture.
    """
    said = " ".join(text.split())
    if len(said) > LONGEST:
        raise BadValue(
            f"The watermark has {len(said)} letters.", f"Write {LONGEST} or fewer of them."
        )
    return said


def named(names: Mapping[str, str]) -> str:
    """Give the name that is burnt in: the programme, and which version of it."""
    return ", ".join(part for part in titles(names) if part)
