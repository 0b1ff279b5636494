"""The start: the timecode of the first frame."""

from __future__ import annotations

from fractions import Fraction

from ..errors import BadValue, Impossible
from ..formats.wrapper import Wrapper
from ..specs.rules import limits
from ..units import timecode
from . import leader
from .notes import NOTHING, Notes, step
from .request import Request

KEY, DROP = "file.start_timecode", "file.drop_frame"


def plan_start(request: Request, place: Wrapper, rate: Fraction | None) -> tuple[str | None, Notes]:
    """Settle the timecode: as it is asked, else the master's, carried over.

    Args:
        request: what is planned.
        place: the wrapper; None is given where it has no place for a timecode.
        rate: frames a second of what is made; None of sound alone.

    Raises:
        Impossible: the one that is asked does not exist at this rate.
    """
    if not place.timecode or rate is None:
        return None, NOTHING
    carried = _carried(request, rate)
    values = request.values
    wanted = values.get(KEY, carried)
    asked_for = request.spec.on(KEY) or KEY in values.chosen or KEY in values.house
    wanted = wanted if asked_for else carried
    if wanted is None:
        return ("00:00:00:00" if place.patterns else None), NOTHING
    asked = request.spec.requirement(DROP)
    drop = bool(limits(asked)[0]) if asked is not None and asked.rule.operator == "is" else None
    try:
        frame = timecode.read(str(wanted), rate, drop)
        dropping = drop if drop is not None else ";" in str(wanted)
        # The programme's first frame keeps the label that it has.
        frame -= 0 if asked_for else leader.frames_of(values.leader, rate)
        label = timecode.show(frame, rate, bool(dropping))
    except BadValue as error:
        raise Impossible(error.what, error.way_out) from error
    why = "The master's, carried over." if wanted == carried else "The start the recipient asks."
    return label, step(f"Timecode from {label}", why, KEY)


def _carried(request: Request, rate: Fraction) -> str | None:
    """Give the master's timecode as it is at another rate: the same time of day."""
    master = request.master
    start, have = master.value(KEY), master.fraction("motion.rate")
    if not start or not have:
        return None
    mark = ";" if ";" in str(start) and timecode.may_drop(rate) else ":"
    clock, part = str(start)[:-3], str(start)[-2:]
    try:
        timecode.read(str(start), have)
        part = f"{int(part) * timecode.nominal(rate) // timecode.nominal(have):02d}"
        timecode.read(f"{clock}{mark}{part}", rate)
    except BadValue:
        return None
    return f"{clock}{mark}{part}"
