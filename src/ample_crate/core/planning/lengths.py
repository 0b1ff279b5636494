"""How long what is made lasts."""

from __future__ import annotations

from fractions import Fraction

from ..errors import Impossible
from ..facts import Facts
from . import beside, programme
from .notes import NOTHING, Notes, step
from .request import Request
from .sound import Sound


def heard(master: Facts, sound: Sound, seconds: Fraction) -> Fraction:
    """Give the length of sound alone: whole samples."""
    made = sound.streams[0].format
    if made.samples is not None:
        return Fraction(made.samples, made.sample_rate)
    return seconds + (master.fraction("sound.length_difference") or 0)


def first_of_many(request: Request) -> Notes:
    """Say which of many frames a still is."""
    frames = int(request.master.value("motion.frames") or 1)
    if frames == 1:
        return NOTHING
    return step(
        "A still of the first frame",
        f"The recipient wants one image, and {frames} frames are delivered of the master: a marked "
        "range of one frame chooses another.",
        "motion.frames",
    )


def length(request: Request, rate: Fraction) -> Fraction:
    """Give the seconds that are made: whole frames.

    Raises:
        Impossible: the master's length is not known.
    """
    still = programme.still(request.master)
    seconds = _shown(request) if still else seconds_of(request.master)
    return Fraction(max(1, round(seconds * rate))) / rate


def _shown(request: Request) -> Fraction:
    """Settle for how long a still is shown.

    Raises:
        Impossible: nobody says.
    """
    seconds = request.values.get("file.duration")
    if seconds is None or seconds <= 0:
        raise Impossible(
            "The master is a still, and nobody says for how long it is shown.",
            "Choose a duration.",
        )
    return Fraction(seconds)


def held(frames: int, rate: Fraction) -> Notes:
    """Say for how long a still is shown."""
    return step(
        f"The still shown for {frames} frames",
        f"{float(frames / rate):g} s at {float(rate):g} a second, as chosen or asked.",
        "file.duration",
        "motion.frames",
    )


def seconds_of(master: Facts) -> Fraction:
    """Give the length of a master.

    Raises:
        Impossible: it is not known.
    """
    seconds = beside.length_of(master)
    if not seconds or seconds <= 0:
        raise Impossible(
            "The master's length is not known.",
            "Let it be measured first, or hand in a whole file.",
        )
    return seconds
