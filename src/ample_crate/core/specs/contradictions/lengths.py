"""Checks on lengths: parts that last longer than the whole, lengths that no number of frames
makes.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ...facts.properties import lookup
from .view import Contradiction, View

# Parts of a programme, each alone or one after the other.
PARTS = (
    ("motion.black_before", "motion.black_after"),
    ("motion.leader", "motion.black_after"),
    ("motion.black",),
    ("motion.frozen",),
    ("sound.silence",),
    ("sound.tone",),
    ("sound.tone_before",),
    ("motion.bars_before", "motion.slate"),
)


def _parts(view: View) -> Iterator[Contradiction]:
    whole = view.high("file.duration")
    for keys in PARTS if whole is not None else ():
        asked = {key: low for key in keys if (low := view.low(key))}
        length = sum(asked.values(), Fraction(0))
        if whole is not None and asked and length > whole:
            names = " and ".join(lookup(key).label for key in asked)
            yield view.against(
                "part longer",
                f"{names[0].upper()}{names[1:]}: {float(length):g} s are asked of a file that "
                f"lasts {float(whole):g} s at the most.",
                "A part cannot last longer than the whole.",
                (*asked, "file.duration"),
                "Leave it out, or allow a longer file.",
                {next(iter(asked)): None},
            )
            return


def _whole_frames(view: View) -> Iterator[Contradiction]:
    lengths, rates = view.values("file.duration") or [], view.rates
    if (
        not lengths
        or not rates
        or any((Fraction(length) * rate).denominator == 1 for length in lengths for rate in rates)
    ):
        return
    length, rate = Fraction(lengths[0]), rates[0]
    fewer = int(length * rate)
    operands = (
        {"is": f"{float(length):g} s"}
        if len(lengths) == 1
        else {"one_of": [f"{float(one):g} s" for one in lengths]}
    )
    yield view.against(
        "whole frames",
        f"No whole number of frames at {float(rate):g} fps lasts {float(length):g} s.",
        f"{fewer} frames last {float(Fraction(fewer) / rate):.4f} s, {fewer + 1} last "
        f"{float(Fraction(fewer + 1) / rate):.4f} s.",
        ("file.duration", "motion.rate"),
        "Allow a frame more or less.",
        {"file.duration": operands | {"tolerance": "1/20 s"}},
    )


CHECKS = (_parts, _whole_frames)
