"""Frames of a master by the labels that people give them: a timecode, or a plain number."""

from __future__ import annotations

from ..errors import BadValue
from ..units import timecode
from .facts import Facts
from .span import Span, joined


def start_frame(facts: Facts) -> int:
    """Give the frame number, from 00:00:00:00, that the start timecode names; 0 where there is none
    that can be counted.
    """
    start, rate = facts.value("file.start_timecode"), facts.fraction("motion.rate")
    if not start or not rate:
        return 0
    try:
        return timecode.read(start, rate, facts.value("file.drop_frame"))
    except BadValue:
        return 0


def frame_named(label: str, facts: Facts, frames: int) -> int:
    """Give the frame, counted from 0, that a label names.

    Args:
        label: a timecode such as 01:00:10:12, by the master's own, or a number.
        facts: of the master.
        frames: how many it has.

    Raises:
        BadValue: it names none of the master's.
    """
    if label.strip().isdigit():
        number = int(label)
    else:
        rate = facts.fraction("motion.rate")
        if rate is None:
            raise BadValue(
                "This master has no frames to count.", "Choose a place on the time line."
            )
        number = timecode.read(label, rate, facts.value("file.drop_frame")) - start_frame(facts)
    if not 0 <= number < max(1, frames):
        raise BadValue(
            f"{label} lies outside this master.",
            f"It has {frames} frames; see its first and last timecode.",
        )
    return number


def range_named(text: str, facts: Facts, name: str) -> Span:
    """Give the range that two labels name, both included: "01:00:10:00-01:00:12:24" or "250-324".

    Args:
        text: the labels, with a hyphen between.
        facts: of the master.
        name: of the range.

    Raises:
        BadValue: it is none of the master's.
    """
    ends = text.split("-")
    if len(ends) != 2:
        raise BadValue(f"'{text}' is no range.", "Write its first and last frame, such as 250-324.")
    frames = int(facts.value("motion.frames") or 0)
    first, last = (frame_named(end, facts, frames) for end in ends)
    if last < first:
        raise BadValue(f"The range {text} ends before it begins.", "Write its first frame first.")
    return Span(name=name, first=first, frames=last - first + 1)


def ranges_named(text: str, facts: Facts) -> Span:
    """Give what ranges name, joined: as `range_named` has each, with commas between.

    Raises:
        BadValue: one is none of the master's, or they do not come in order.
    """
    return joined([range_named(one.strip(), facts, "") for one in text.split(",")])
