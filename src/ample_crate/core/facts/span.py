"""Ranges of a master: what is known of a part of it."""

from __future__ import annotations

from fractions import Fraction

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadValue
from ..units import timecode
from ..units.values import Value
from . import Facts
from .properties import lookup


class Span(BaseModel):
    """A range: `first` frame, counted from 0, and how many `frames`; its name, if it has one."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    name: str = Field("", max_length=100)
    first: int = Field(ge=0)
    frames: int = Field(ge=1)

    @property
    def last(self) -> int:
        """Give the last frame, included."""
        return self.first + self.frames - 1


def check(span: Span, master: Facts) -> None:
    """Make sure that a range lies within its master.

    Raises:
        BadValue: it does not, or the master has no frames to count.
    """
    frames = master.value("motion.frames")
    if not frames:
        raise BadValue(
            "This master's frames are not counted yet.",
            "Wait until it is measured, then mark the range.",
        )
    if span.last >= frames:
        raise BadValue(
            f"The range ends at frame {span.last}; the last one is {frames - 1}.",
            "Set the out mark earlier.",
        )


def within(master: Facts, span: Span | None) -> Facts:
    """Give what is known of a range of a master: its length and start timecode; what only the whole
    was measured for is left out.
    """
    if span is None:
        return master
    check(span, master)
    rate = master.fraction("motion.rate") or Fraction(25)
    values: dict[str, Value | None] = {
        "motion.frames": span.frames,
        "file.duration": span.frames / rate,
    }
    began = master.fraction("file.start_time")
    if began is not None:
        values["file.start_time"] = began + span.first / rate
    start = master.value("file.start_timecode")
    if start:
        drop = ";" in start
        try:
            values["file.start_timecode"] = timecode.show(
                timecode.read(start, rate, drop) + span.first, rate, drop
            )
        except BadValue:
            values["file.start_timecode"] = None
    # What a person said of the whole's, such as its first label, is not said of the range.
    kept = {k: f for k, f in master.items() if not lookup(k).of_whole and k not in values}
    return Facts(kept).with_values("measured", values)
