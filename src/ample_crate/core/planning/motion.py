"""Motion: from the master's frames or fields to the asked rate and scan."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

from .plan import Operation, PictureSource

UPPER, LOWER, NONE = "upper first", "lower first", "none"


class Notepad(Protocol):
    """Takes steps and cautions."""

    def step(self, title: str, reason: str, *rows: str) -> None:
        """Note a step."""

    def caution(
        self, row: str, what: str, why: str, figures: str, way_out: str, blocks: bool = False
    ) -> None:
        """Note a caution."""


@dataclass(frozen=True)
class Motion:
    """What is done to motion before and after the frame is reshaped, and what comes out."""

    before: list[Operation]
    after: list[Operation]
    rate: Fraction
    interlaced: bool
    order: str


def plan_motion(
    source: PictureSource, rate: Fraction, scan: str, order: str, notes: Notepad
) -> Motion:
    """Plan the way from the master's motion to the asked one.

    Fields are never scaled by splitting and weaving, which would move them about half an output
    line against each other: full frames are made at field rate, reshaped, and alternate lines
    taken.

    Args:
        source: how the master moves; its rate counts frames, not fields.
        rate: frames a second asked for (an interlaced 25 has 50 fields).
        scan: "progressive" or "interlaced".
        order: "upper first" or "lower first", for an interlaced target.
        notes: takes the steps and cautions.
    """
    if scan != "interlaced":
        return _to_frames(source, rate, notes)
    order = order if order in {UPPER, LOWER} else UPPER
    return _to_fields(source, rate, order, notes)


def _to_frames(source: PictureSource, rate: Fraction, notes: Notepad) -> Motion:
    before: list[Operation] = []
    have = source.rate
    if source.interlaced:
        double = rate == 2 * have
        made = 2 * have if double else have
        before.append(Operation(kind="frames_from_fields", rate=made, order=source.order))
        notes.step(
            f"Fields to frames, {float(made):g} a second",
            "The recipient wants whole frames; combing would show on every moving edge.",
            "motion.scan",
            "motion.field_order",
        )
        if not double:
            notes.caution(
                "motion.scan",
                "Half of the master's motion is let go.",
                f"{float(2 * have):g} fields a second become {float(have):g} frames; fast motion "
                f"is less smooth and a little softer.",
                f"{float(2 * have):g} to {float(have):g} a second",
                f"If the recipient takes {float(2 * have):g} fps, ask for it: all motion is kept.",
            )
        have = made
    before += _resample(have, rate, notes, source.uneven)
    return Motion(before, [], rate, False, NONE)


def _to_fields(source: PictureSource, rate: Fraction, order: str, notes: Notepad) -> Motion:
    field_rate = 2 * rate
    weave = [Operation(kind="fields_from_frames", rate=rate, order=order)]
    if source.interlaced and source.rate == rate:
        notes.step(
            "Fields kept: to frames at field rate and back",
            "Each field is built up to a frame, reshaped whole, and its own lines taken again, so "
            "no field moves against the other.",
            "motion.scan",
            "motion.field_order",
        )
        if source.order != order:
            notes.caution(
                "motion.field_order",
                f"Field order turns from {source.order} to {order}.",
                "The fields are made anew in the right order; their time order stays.",
                f"{source.order} to {order}",
                "Watch a fast pan in the finished file.",
            )
        return Motion(
            [Operation(kind="frames_from_fields", rate=field_rate, order=source.order)],
            weave,
            rate,
            True,
            order,
        )
    if not source.interlaced and source.rate == field_rate and not source.uneven:
        notes.step(
            f"{float(field_rate):g} frames to {float(field_rate):g} fields",
            "One frame gives the upper lines, the next the lower ones: all motion is kept.",
            "motion.scan",
            "motion.rate",
        )
        return Motion([], weave, rate, True, order)
    before: list[Operation] = []
    have = source.rate
    if source.interlaced:
        have = 2 * source.rate
        before.append(Operation(kind="frames_from_fields", rate=have, order=source.order))
        before += _resample(have, field_rate, notes, source.uneven)
        return Motion(before, weave, rate, True, order)
    before += _resample(have, rate, notes, source.uneven)
    notes.step(
        "Both fields from one frame",
        "The master has one picture a frame; it is carried in two fields of the same moment.",
        "motion.scan",
    )
    notes.caution(
        "motion.scan",
        "The motion stays that of film.",
        "A progressive master carried in fields moves like the master, not like a studio camera; "
        "that is usual and allowed.",
        f"{float(rate):g} pictures in {float(field_rate):g} fields",
        "Nothing to do unless the recipient asks for true fields.",
    )
    return Motion(before, [], rate, True, order)


def _resample(
    have: Fraction, rate: Fraction, notes: Notepad, uneven: bool = False
) -> list[Operation]:
    if have == rate and not uneven:
        return []
    if uneven:
        notes.step(
            f"To an even {float(rate):.5g} fps",
            "Frames that lasted too long are repeated, others dropped; sound is not touched.",
            "motion.rate",
            "motion.steady",
        )
        return [Operation(kind="resample", rate=rate)]
    times = have / rate
    if times.denominator == 1:
        what = f"every {times} frames become one" if times > 1 else ""
        reason = f"{what}; the rest is dropped evenly."
    else:
        reason = "Frames are repeated or dropped to keep time; sound is not touched."
        notes.caution(
            "motion.rate",
            "The frame rate is changed.",
            "Repeated or dropped frames show as a stutter in pans.",
            f"{float(have):.5g} to {float(rate):.5g} fps",
            "Ask for a master at the recipient's rate.",
        )
    notes.step(f"{float(have):.5g} to {float(rate):.5g} fps", reason, "motion.rate")
    return [Operation(kind="resample", rate=rate)]
