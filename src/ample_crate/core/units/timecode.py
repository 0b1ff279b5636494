"""SMPTE ST 12-1 timecode: labels of frames, with and without drop-frame counting."""

from __future__ import annotations

import re
from fractions import Fraction

from ..errors import BadValue

LABEL = re.compile(r"\s*(\d{1,2})[:.](\d{1,2})[:.](\d{1,2})([:;.,])(\d{1,3})\s*")


def nominal(rate: Fraction) -> int:
    """Give the frame numbers a second of a rate: 30 for 30000/1001."""
    return max(1, round(rate))


def may_drop(rate: Fraction) -> bool:
    """Say whether a rate has drop-frame counting: multiples of 30000/1001 only (SMPTE ST 12-1)."""
    return rate.denominator == 1001 and nominal(rate) % 30 == 0


def show(frame: int, rate: Fraction, drop: bool = False) -> str:
    """Give the label of a frame counted from 00:00:00:00, "hh:mm:ss:ff", or "hh:mm:ss;ff" with
    drop-frame.

    Two numbers (four at 59.94) are left out at the start of each minute but the tenth ones. A day
    has 24 hours.

    Raises:
        BadValue: the rate has no drop-frame counting.
    """
    count = nominal(rate)
    if drop:
        _require_drop(rate)
        left_out = count // 15
        tens, rest = divmod(frame, count * 600 - 9 * left_out)
        frame += 9 * left_out * tens
        if rest >= count * 60:
            frame += left_out * ((rest - count * 60) // (count * 60 - left_out) + 1)
    seconds, part = divmod(frame, count)
    width = 3 if count > 100 else 2
    hours, minutes = seconds // 3600 % 24, seconds // 60 % 60
    mark = ";" if drop else ":"
    return f"{hours:02d}:{minutes:02d}:{seconds % 60:02d}{mark}{part:0{width}d}"


def read(text: str, rate: Fraction, drop: bool | None = None) -> int:
    """Give the frame that a label names, counted from 00:00:00:00.

    Args:
        text: "01:00:10:12"; a semicolon or comma before the frames means drop-frame.
        rate: frames a second.
        drop: whether drop-frame counting is meant, over what the punctuation says.

    Raises:
        BadValue: no label, or one that does not exist at this rate.
    """
    match = LABEL.fullmatch(text)
    if not match:
        raise BadValue(f"'{text}' is no timecode.", "Write it as 01:00:10:12.")
    hours, minutes, seconds, mark, part = (
        int(match[1]),
        int(match[2]),
        int(match[3]),
        match[4],
        int(match[5]),
    )
    count = nominal(rate)
    if hours > 23 or minutes > 59 or seconds > 59 or part >= count:
        raise BadValue(
            f"'{text}' does not exist at {count} frames a second.",
            f"Frames go to {count - 1}, seconds and minutes to 59.",
        )
    frame = ((hours * 60 + minutes) * 60 + seconds) * count + part
    if drop if drop is not None else mark in ";,":
        _require_drop(rate)
        left_out = count // 15
        if seconds == 0 and part < left_out and minutes % 10:
            raise BadValue(
                f"'{text}' is one of the numbers that drop-frame leaves out.",
                f"The next one is {text[:-2]}{left_out:02d}.",
            )
        whole = hours * 60 + minutes
        frame -= left_out * (whole - whole // 10)
    return frame


def _require_drop(rate: Fraction) -> None:
    if not may_drop(rate):
        raise BadValue(
            f"{float(rate):g} fps has no drop-frame counting.",
            "Write the timecode with a colon before the frames.",
        )
