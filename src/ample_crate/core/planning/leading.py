"""What stands around a programme, planned: its leader, and black after it."""

from __future__ import annotations

from fractions import Fraction

from ..errors import Impossible
from ..facts import Facts
from ..facts.properties import lookup
from ..formats.colour import CARRIED
from ..ledger import ledger
from .leader import ALIGNED, ALIGNED_60, PITCH, Around, Standing, asked, whole, written
from .notes import NOTHING, Notes, caution, step
from .request import Request
from .steps import PictureFormat

LED = ("motion.leader", "motion.bars_before", "motion.slate", "motion.black_before")


def plan_around(
    request: Request, f: PictureFormat, seconds: Fraction, moving: bool
) -> tuple[Around, Notes]:
    """Plan what stands before a programme and after it, in whole frames.

    Args:
        request: what is planned.
        f: of the picture as it is made.
        seconds: of the programme.
        moving: whether it moves: around one image nothing stands.

    Raises:
        Impossible: bars of a kind of picture of which they are not made.
    """
    values = request.values
    if not moving or not (values.leader or values.tail):
        return Around(), NOTHING
    kinds = {kind for kind, _ in values.leader}
    if f.transfer in CARRIED and kinds - {"black"}:
        raise Impossible(
            f"Bars and slates in {f.transfer} are not made here.",
            "Choose a leader of black alone, or none.",
        )
    before = tuple(Standing(kind=k, frames=whole(s, f.rate)) for k, s in values.leader)
    lines = written(request.names, request.spec, seconds)
    sixty = f.rate.denominator == 1001
    around = Around(
        before=before,
        after=round(values.tail * f.rate),
        lines=lines if "slate" in kinds else (),
        tone=ALIGNED_60 if sixty else ALIGNED,
    )
    return around, _said(around, f.rate)


def _said(around: Around, rate: Fraction) -> Notes:
    notes = NOTHING
    if around.before:
        parts = [f"{one.kind} {float(one.frames / rate):g} s" for one in around.before]
        bars = any(one.kind == "bars" for one in around.before)
        tone = f" With the bars goes a tone of {PITCH} Hz at {around.tone} dBFS." if bars else ""
        notes += step(
            f"Leader: {', '.join(parts)}",
            f"Set before the programme.{tone}",
            "motion.leader",
            "motion.bars_before",
            "motion.slate",
            "motion.black_before",
            "sound.tone_before",
            "file.start_timecode",
        )
    if around.after:
        notes += step(
            f"Black for {float(around.after / rate):g} s at the end",
            "Set after the programme, in silence.",
            "motion.black_after",
            "file.duration",
        )
    return notes


def leader_wanted(request: Request, predicted: Facts) -> Notes:
    """Say that a spec asks for a leader, where what is made begins otherwise."""
    wanted = asked(request.spec)
    if not wanted or request.values.leader:
        return NOTHING
    broken = [
        f"{lookup(finding.property).label} {finding.asked}"
        for finding in ledger(predicted, request.spec, request.master)
        if finding.property in LED and finding.verdict in {"breaks", "advice"}
    ]
    if not broken:
        return NOTHING
    return caution(
        LED[0],
        "The spec asks for a leader, and the programme begins without it.",
        "It may be sent back, or have one set before it by somebody else.",
        "; ".join(broken),
        f"Set one before it on the planning bench, under leader: {wanted}.",
    )
