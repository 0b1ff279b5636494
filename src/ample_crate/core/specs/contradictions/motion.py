"""Checks on motion: fields, frames that lean on each other, rates of the two line systems."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ...formats.codec import Profile
from .view import Contradiction, View

USUAL_FIELDS = Fraction(3)  # holds standard definition in fields
FIFTY, SIXTY = (
    {Fraction(25), Fraction(50)},
    {Fraction(30000, 1001), Fraction(60000, 1001), Fraction(24000, 1001)},
)


def _fields(view: View) -> Iterator[Contradiction]:
    scan, orders = view.values("motion.scan"), view.values("motion.field_order")
    if scan == ["progressive"] and orders and "none" not in orders:
        yield view.against(
            "fields",
            "A field order is asked of progressive pictures.",
            "Only interlaced pictures have an earlier and a later field.",
            ("motion.field_order", "motion.scan"),
            "Leave the field order out, or ask for interlaced pictures.",
            {"motion.field_order": None},
        )
    if scan == ["interlaced"] and orders is None:
        yield view.against(
            "field order left open",
            "Interlaced pictures are asked without a field order.",
            "Which field comes first is what most often goes wrong; a file with the other order "
            "would pass.",
            ("motion.scan",),
            "Say which field is first: upper for HD and 625 lines, lower for 525 lines in DV and "
            "MPEG-2 (common practice).",
            {"motion.field_order": {"is": "upper first"}},
        ).doubtful()
    if scan == ["interlaced"] and orders == ["none"]:
        yield view.against(
            "fields",
            "Interlaced pictures are asked with no field order.",
            "Every interlaced picture has one field that is earlier.",
            ("motion.field_order", "motion.scan"),
            "Ask for upper first or lower first.",
            {"motion.field_order": {"one_of": ["upper first", "lower first"]}},
        )
    known = view.able
    if scan == ["interlaced"] and known is not None and not known.interlaced:
        yield view.against(
            "fields codec",
            f"{view.called} cannot code fields.",
            "It knows whole frames only.",
            ("motion.scan", "picture.codec"),
            "Ask for progressive pictures.",
            {"motion.scan": {"is": "progressive"}, "motion.field_order": None},
        )
    profile = _profile(view)
    if scan == ["interlaced"] and profile is not None and not profile.fields:
        able = [p for p in known.profiles if p.fields] if known else []
        # What is made here is offered first.
        others = [p.name for p in sorted(able, key=lambda p: not p.made)]
        yield view.against(
            "fields codec",
            f"{profile.name.capitalize()} profile cannot code fields.",
            f"{profile.source} allows whole frames only.",
            ("picture.profile", "motion.scan"),
            f"Ask for {' or '.join(others[:2])} profile.",
            {"picture.profile": {"one_of": others[:2]}},
        )
    if scan == ["interlaced"]:
        yield from _field_levels(view)


def _profile(view: View) -> Profile | None:
    """Give the one profile that is asked for."""
    name = view.only("picture.profile")
    return view.able.profile(name) if view.able is not None and name is not None else None


def _field_levels(view: View) -> Iterator[Contradiction]:
    """Hold the level against those at which fields may be coded."""
    levels = view.able.levels if view.able is not None else None
    if levels is None or not levels.fields_source or levels.named_with_profile:
        return
    first, *_, last = levels.with_fields()
    low, high = view.low("picture.level"), view.high("picture.level")
    too_high = low is not None and low > last.number
    too_low = high is not None and high < first.number
    if not too_high and not too_low:
        return
    fit = last.number if too_high else USUAL_FIELDS
    yield view.against(
        "fields level",
        f"Level {float((low if too_high else high) or 0):g} has no fields.",
        f"Fields are coded at levels {first.name} to {last.name} only ({levels.fields_source}).",
        ("picture.level", "motion.scan", "picture.codec"),
        f"Ask for at most level {float(fit):g}.",
        {"picture.level": {"at_most": float(fit)}},
    )


def _lines_and_rate(view: View) -> Iterator[Contradiction]:
    """Hold the rates of the two worlds of standard definition against the lines (ITU-R BT.601: 525
    lines at 30/1.001, 625 at 25).
    """
    for size in view.sizes:
        if size.width not in {704, 720}:
            continue
        belongs = (
            FIFTY
            if size.height in {576, 608}
            else SIXTY
            if size.height in {480, 486, 512}
            else None
        )
        odd = [r for r in view.rates if belongs and r not in belongs]
        if odd and belongs:
            usual = "25" if belongs is FIFTY else "30000/1001"
            system = "625" if belongs is FIFTY else "525"
            yield view.against(
                "lines and rate",
                f"{float(odd[0]):g} fps is asked of a picture of {size.height} lines.",
                f"{size.height} lines belong to the {system}-line system at {usual} fps; another "
                f"rate is a slip, or a file no player of it takes.",
                ("motion.rate", "picture.size"),
                f"Ask for {usual} fps.",
                {"motion.rate": {"is": usual}},
            ).doubtful()


def _intra(view: View) -> Iterator[Contradiction]:
    known = view.able
    least = view.low("motion.longest_gop")
    frames = view.low("motion.b_frames")
    alone = known is not None and known.intra
    if alone or view.only("motion.intra_only") is True:
        for key, low, limit in (("motion.longest_gop", least, 1), ("motion.b_frames", frames, 0)):
            if low is not None and low > limit:
                said = (
                    f"{view.called} codes every frame by itself"
                    if alone
                    else "Every frame must decode by itself"
                )
                yield view.against(
                    "intra",
                    f"{said}, and yet frames are asked that lean on others.",
                    "A group of pictures is then one frame long.",
                    (key, "picture.codec" if alone else "motion.intra_only"),
                    "Leave it out.",
                    {key: None},
                )
    profile = _profile(view)
    if profile is not None and not profile.reorders and frames:
        yield view.against(
            "intra",
            f"{profile.name.capitalize()} profile has no frames that lean on later ones.",
            f"{profile.source} allows none.",
            ("motion.b_frames", "picture.profile"),
            "Ask for no B-frames.",
            {"motion.b_frames": {"is": 0}},
        )
    if view.only("motion.intra_only") is False and known is not None and known.intra:
        yield view.against(
            "intra",
            f"{view.called} codes every frame by itself.",
            "It has no frames that lean on others.",
            ("motion.intra_only", "picture.codec"),
            "Leave it out.",
            {"motion.intra_only": None},
        )


CHECKS = (_fields, _lines_and_rate, _intra)
