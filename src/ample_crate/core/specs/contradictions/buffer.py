"""Checks on the rate buffer and on the parts of a frame."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil

from ... import formats
from ...units.values import show_bit_count, show_bit_rate
from .view import Contradiction, View, asked_level

BUFFER, SLICES = "picture.vbv", "picture.slices"


def _held(view: View) -> Iterator[Contradiction]:
    """Hold the buffer that is asked for, and the one that the house makes, against the level's."""
    asked = asked_level(view)
    held = asked.level if asked is not None else None
    named = view.able is not None and view.able.names_buffer
    if asked is None or held is None or held.buffer is None or not named:
        return
    key, level, most = asked.key, held.name, held.buffer
    house, least = view.spec.coding.buffer_bits, view.low(BUFFER)
    if house is not None and house > most:
        yield view.against(
            "level buffer",
            f"The rate buffer of {house} bits is larger than level {level} allows.",
            f"Level {level} allows {most} bits.",
            (key,),
            f"Ask for a buffer of {most} bits at the most, in the coding.",
        )
    if least is not None and least > most:
        yield view.against(
            "level buffer",
            f"A rate buffer of at least {show_bit_count(ceil(least))} is larger than level "
            f"{level} allows.",
            f"Level {level} allows {show_bit_count(most)}.",
            (BUFFER, key),
            f"Ask for at most {show_bit_count(most)}.",
            {BUFFER: {"at_most": f"{most} bits"}},
        )


def _frame(view: View) -> Iterator[Contradiction]:
    """A buffer must hold a frame: of a stream whose average is asked for, some frame is at least
    the average one.
    """
    most, least, rates = view.high(BUFFER), view.low("picture.bit_rate"), view.values("motion.rate")
    if most is not None and least is not None and rates and most < least / max(rates):
        frame = ceil(least / max(rates))
        yield view.against(
            "buffer frame",
            f"A rate buffer of {show_bit_count(int(most))} cannot hold one frame.",
            f"At {show_bit_rate(int(least))} and {float(max(rates)):g} fps the average frame has "
            f"{show_bit_count(frame)}.",
            (BUFFER, "picture.bit_rate", "motion.rate"),
            f"Ask for at most {show_bit_count(ceil(least))}, a second of the stream.",
            {BUFFER: {"at_most": f"{ceil(least)} bits"}},
        )


def _exact(view: View) -> Iterator[Contradiction]:
    if any(r.rule.operator == "is" for r in view.on(BUFFER)):
        (exact,) = view.values(BUFFER) or [0]
        yield view.against(
            "buffer exact",
            f"The rate buffer is asked to be {show_bit_count(int(exact))} exactly.",
            "What is measured is the buffer that a stream needs, and that is hardly ever just the "
            "size which a decoder has.",
            (BUFFER,),
            f"Ask for at most {show_bit_count(int(exact))}.",
            {BUFFER: {"at_most": f"{int(exact)} bits"}},
        ).doubtful()


def _carried(view: View) -> Iterator[Contradiction]:
    known = view.able
    if known is None:
        return
    rows = formats.PICTURE.values()
    for key, fits, what in (
        (BUFFER, [c for c in rows if c.names_buffer], "names no rate buffer"),
        (SLICES, [c for c in rows if c.sliced], "has no slices that a file shows"),
    ):
        if view.asks(key) and known not in fits:
            yield view.against(
                "buffer codec",
                f"{view.called} {what}.",
                f"Only {', '.join(sorted(c.label for c in fits))} streams do; no file could "
                f"prove it.",
                (key, "picture.codec"),
                "Leave it out.",
                {key: None},
            )


CHECKS = (_held, _frame, _exact, _carried)
