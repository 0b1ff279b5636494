"""Motion: from the master's frames or fields to the asked rate and scan."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from ..units.fields import FieldOrder
from .notes import NOTHING, Notes, caution, step
from .speed import Speed
from .steps import (
    Blend,
    Compensate,
    Deinterlace,
    Interlace,
    PictureFormat,
    PictureStep,
    Retime,
    SegmentedFrames,
    ShiftLine,
    UndoPulldown,
)

HALVED = "4:2:0"


Between = Literal["", "blended", "compensated"]


@dataclass(frozen=True)
class Motion:
    """What is done to motion before and after the frame is reshaped; and to its rate at the very
    end.
    """

    before: tuple[PictureStep, ...] = ()
    after: tuple[PictureStep, ...] = ()
    notes: Notes = NOTHING
    blend: Blend | Compensate | None = None


@dataclass(frozen=True)
class Asked:
    """How a picture is to move.

    Attributes:
        rate: frames a second (an interlaced 25 has 50 fields).
        fields: which field is to be first; None for whole frames.
        between: how frames are made that lie between two, where they are whole ones: mixed, made
            along what moves, or not at all.
    """

    rate: Fraction
    fields: FieldOrder | None
    between: Between = ""


def plan_motion(
    source: PictureFormat,
    uneven: bool,
    asked: Asked,
    untouched: bool = False,
    film: Notes | None = None,
) -> Motion:
    """Plan the way from the master's motion to the asked one.

    Fields are never scaled by splitting and weaving, which would move them about half an output
    line against each other: full frames are made at field rate, reshaped, and alternate lines
    taken.

    Args:
        source: how the master moves; its rate counts frames, not fields.
        uneven: whether its frames do not last equally long.
        asked: how it is to move.
        untouched: whether nothing else moves a line of the picture.
        film: what is said of film found again in its fields; None where that is not done.
    """
    rate, fields = asked.rate, asked.fields
    if film is not None:
        first = UndoPulldown()
        rest = plan_motion(first.after(source), uneven, asked)
        return replace(rest, before=(first, *rest.before), notes=film + rest.notes)
    if fields is None:
        return _to_frames(source, uneven, rate, asked.between)
    if source.fields is not None:
        if untouched and source.rate == rate and not uneven:
            if source.fields is fields:
                return Motion(notes=_LEFT)
            # A line of colour that stands for two of luma belongs to the field of both.
            if source.chroma != HALVED:
                return Motion(
                    after=(ShiftLine(first=fields),), notes=_shifted(source.fields, fields)
                )
        return _fields_to_fields(source, source.fields, uneven, rate, fields)
    if source.rate == 2 * rate and not uneven:
        return Motion(
            after=(Interlace(first=fields),),
            notes=step(
                f"{float(2 * rate):g} frames to {float(2 * rate):g} fields",
                "One frame gives the upper lines, the next the lower ones: all motion is kept.",
                "motion.scan",
                "motion.rate",
            ),
        )
    if source.rate != rate:
        return _in_fields(_retimed(source.rate, 2 * rate, uneven), source.rate, rate, fields)
    return _segmented(_retimed(source.rate, rate, uneven), rate, fields)


def _to_frames(source: PictureFormat, uneven: bool, rate: Fraction, between: Between) -> Motion:
    if source.fields is None:
        return _at_rate(source.rate, rate, uneven, between)
    have = source.rate
    every_field = rate == 2 * have
    made = 2 * have if every_field else have
    said = step(
        f"Fields to frames, {float(made):g} a second",
        "The recipient wants whole frames; combing would show on every moving edge.",
        "motion.scan",
        "motion.field_order",
    )
    if not every_field:
        said += _half_of_the_motion(have)
    rest = _at_rate(made, rate, uneven, between)
    first = Deinterlace(every_field=every_field)
    return replace(rest, before=(first, *rest.before), notes=said + rest.notes)


def _half_of_the_motion(have: Fraction) -> Notes:
    double = f"{float(2 * have):g}"
    return caution(
        "motion.scan",
        "Half of the master's motion is let go.",
        f"{double} fields a second become {float(have):g} frames; fast motion "
        f"is less smooth and a little softer.",
        f"{double} to {float(have):g} a second",
        f"If the recipient takes {double} fps, ask for it: all motion is kept.",
    )


_LEFT = step(
    "Fields left as they are",
    "Nothing moves a line of the picture, so neither field is touched.",
    "motion.scan",
    "motion.field_order",
)


def _shifted(order: FieldOrder, fields: FieldOrder) -> Notes:
    way = "higher" if fields is FieldOrder.LOWER else "lower"
    return step(
        f"Field order turned by a line: {fields}",
        f"The picture stands a line {way}: the fields change places, keep their moments, and no "
        f"line is made anew.",
        "motion.field_order",
    ) + caution(
        "motion.field_order",
        f"Field order turns from {order} to {fields}.",
        f"The picture stands a line {way}; one line at its edge is shown twice.",
        f"{order} to {fields}",
        "Nothing to do: what was shown first still is.",
    )


def _fields_to_fields(
    source: PictureFormat, order: FieldOrder, uneven: bool, rate: Fraction, fields: FieldOrder
) -> Motion:
    first = Deinterlace(every_field=True)
    weave = Interlace(first=fields)
    if source.rate != rate:
        rest = _retimed(2 * source.rate, 2 * rate, uneven)
        return Motion((first, *rest.before), (weave,), rest.notes)
    said = step(
        "Fields kept: to frames at field rate and back",
        "Each field is built up to a frame, reshaped whole, and its own lines taken again, so "
        "no field moves against the other.",
        "motion.scan",
        "motion.field_order",
    )
    if order is not fields:
        said += caution(
            "motion.field_order",
            f"Field order turns from {order} to {fields}.",
            "The fields are made anew in the right order; their time order stays.",
            f"{order} to {fields}",
            "Watch a fast pan in the finished file.",
        )
    return Motion((first,), (weave,), said)


def _in_fields(retimed: Motion, have: Fraction, rate: Fraction, fields: FieldOrder) -> Motion:
    """Spread frames over fields, of which each has its own moment: 24 frames in 60 fields are two
    and three in turn.
    """
    each = 2 * rate / have
    if each == PULLDOWN:
        title, why = "2:3 pulldown", "Film frames are shown for two fields and three in turn."
    else:
        title = f"{float(have):.5g} frames to {float(2 * rate):.5g} fields"
        why = f"Frames are shown for {_fields_each(each)}, so that they keep time."
    said = step(title, why, "motion.rate", "motion.scan")
    cautions = Notes(cautions=retimed.notes.cautions)
    return Motion(retimed.before, (Interlace(first=fields),), said + cautions)


PULLDOWN = Fraction(5, 2)  # fields for a frame of film, on average


def _fields_each(each: Fraction) -> str:
    whole = int(each)
    return f"{whole} fields" if each == whole else f"{whole} or {whole + 1} fields"


def _segmented(retimed: Motion, rate: Fraction, fields: FieldOrder) -> Motion:
    said = step(
        "Both fields from one frame",
        "The master has one picture a frame; it is carried in two fields of the same moment.",
        "motion.scan",
    ) + caution(
        "motion.scan",
        "The motion stays that of film.",
        "A progressive master carried in fields moves like the master, not like a studio camera; "
        "that is usual and allowed.",
        f"{float(rate):g} pictures in {float(2 * rate):g} fields",
        "Nothing to do unless the recipient asks for true fields.",
    )
    return Motion(retimed.before, (SegmentedFrames(first=fields),), retimed.notes + said)


def _or_faster(have: Fraction, rate: Fraction) -> str:
    natural = Speed(have).natural(rate)
    return "" if natural is None else ", or have every frame taken once, on the planning bench"


def may_blend(have: Fraction, rate: Fraction) -> bool:
    """Say whether frames could be mixed for another rate: some would lie between two."""
    return (have / rate).denominator != 1


def _at_rate(have: Fraction, rate: Fraction, uneven: bool, between: Between) -> Motion:
    if not between or uneven or not may_blend(have, rate):
        return _retimed(have, rate, uneven)
    change = f"{float(have):.5g} to {float(rate):.5g} fps"
    if between == "compensated":
        return Motion(notes=_along(change, have, rate), blend=Compensate(rate=rate))
    said = step(
        f"{change}, blended",
        "Each frame is mixed of the two about its moment, in code values; sound is not touched.",
        "motion.rate",
    ) + caution(
        "motion.rate",
        "The frame rate is changed.",
        "What moves is seen twice where two frames are mixed; pans keep their pace.",
        change,
        "Ask for a master at the recipient's rate" + _or_faster(have, rate) + ".",
    )
    return Motion(notes=said, blend=Blend(rate=rate))


def _along(change: str, have: Fraction, rate: Fraction) -> Notes:
    return step(
        f"{change}, motion followed",
        "Each frame is made between the two about its moment, along what moves; sound is not "
        "touched.",
        "motion.rate",
    ) + caution(
        "motion.rate",
        "The frame rate is changed.",
        "Where motion is followed wrongly, edges tear or melt: about what is uncovered, in rain, "
        "in blurs.",
        change,
        "Watch it before it goes out, or ask for a master at the recipient's rate"
        + _or_faster(have, rate)
        + ".",
    )


def _retimed(have: Fraction, rate: Fraction, uneven: bool) -> Motion:
    if uneven:
        said = step(
            f"To an even {float(rate):.5g} fps",
            "Frames that lasted too long are repeated, others dropped; sound is not touched.",
            "motion.rate",
            "motion.steady",
        )
        return Motion((Retime(rate=rate),), notes=said)
    if have == rate:
        return Motion()
    change, times = f"{float(have):.5g} to {float(rate):.5g} fps", have / rate
    if times.denominator == 1:
        reason = f"every {times} frames become one; the rest is dropped evenly."
        return Motion((Retime(rate=rate),), notes=step(change, reason, "motion.rate"))
    said = step(
        change,
        "Frames are repeated or dropped to keep time; sound is not touched.",
        "motion.rate",
    ) + caution(
        "motion.rate",
        "The frame rate is changed.",
        "Repeated or dropped frames show as a stutter in pans.",
        change,
        "Ask for a master at the recipient's rate" + _or_faster(have, rate) + ".",
    )
    return Motion((Retime(rate=rate),), notes=said)
