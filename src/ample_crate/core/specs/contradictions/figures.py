"""Checks on figures: rules that exclude each other, rates against ceilings, caps, lengths and
timecode.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ...errors import BadValue
from ...facts.properties import PROPERTIES, lookup
from ...units import timecode
from ...units.values import show_bit_rate, show_bytes
from ..rules import RANGES, limits, test
from .view import Contradiction, View


def _exclude(view: View) -> Iterator[Contradiction]:
    """Find properties of which two rules let nothing pass together."""
    for key in dict.fromkeys(r.property for r in view.requirements):
        mine = view.on(key)
        if len(mine) < 2:
            continue
        values = view.values(key)
        prop = lookup(key)
        empty = values == [] if values is not None else False
        if values is None and prop.kind.ordered:
            low, high = view.low(key), view.high(key)
            empty = low is not None and high is not None and low > high
        if values is None and prop.kind.name == "size":
            corners = [v for r in mine if r.rule.operator in RANGES for v in limits(r)]
            empty = bool(corners) and not any(
                all(test(r)(c) for r in mine if r.rule.operator in RANGES) for c in corners
            )
        odd = [r for r in mine if r.rule.present is False]
        if odd and len(odd) < len(mine):
            empty = True
        if empty:
            yield view.against(
                "exclude",
                f"Two clauses on the {prop.label} exclude each other.",
                "No value satisfies both.",
                (key,),
                "Keep the one that is meant.",
            )


def _unrated(view: View) -> Iterator[Contradiction]:
    known = view.able
    if known is None or known.rated:
        return
    for key in (p.key for p in PROPERTIES.values() if p.rated):
        if view.asks(key):
            yield view.against(
                "unrated",
                f"A {lookup(key).label} is asked of {view.called}.",
                "Its frames weigh what their size and detail make them; no encoder can aim at a "
                "rate.",
                (key, "picture.codec"),
                "Leave the rate out; ask for a file size if bytes matter.",
                {key: None},
            )


def _ceilings(view: View) -> Iterator[Contradiction]:
    least, ceiling = view.low("picture.bit_rate"), view.high("picture.peak_bit_rate")
    if least is not None and ceiling is not None and least > ceiling:
        yield view.against(
            "ceiling",
            f"At least {show_bit_rate(int(least))} on average, and never over "
            f"{show_bit_rate(int(ceiling))}.",
            "An average cannot lie above its ceiling.",
            ("picture.peak_bit_rate", "picture.bit_rate"),
            f"Raise the ceiling to {show_bit_rate(int(least * 5 // 4))}.",
            {"picture.peak_bit_rate": {"at_most": f"{int(least * 5 // 4)} b/s"}},
        )
    most = view.high("picture.bit_rate")
    if (
        view.only("picture.rate_mode") == "constant"
        and most is not None
        and ceiling is not None
        and ceiling > 2 * most
    ):
        yield view.against(
            "constant",
            "A constant rate is asked with a ceiling of more than twice its average.",
            "A rate that may double in a second is not constant.",
            ("picture.rate_mode", "picture.peak_bit_rate", "picture.bit_rate"),
            "Ask for a variable rate.",
            {"picture.rate_mode": {"is": "variable"}},
        ).doubtful()
    long_gop = view.able is not None and view.able.long_gop
    leaning = long_gop and view.only("motion.intra_only") is not True
    if leaning and view.only("picture.rate_mode") == "constant":
        yield view.against(
            "constant",
            "Every second is asked to weigh the same, of frames that lean on each other.",
            "Key frames weigh several times the others, so that one second strays from the next "
            "by more than 3 %.",
            ("picture.rate_mode", "motion.intra_only"),
            "Say how far a second may stray.",
            {"picture.rate_mode": None, "picture.rate_deviation": {"at_most": 25}},
        ).doubtful()
    whole = view.high("file.bit_rate")
    parts = (view.low("picture.bit_rate") or Fraction(0)) + (
        view.low("sound.bit_rate") or Fraction(0)
    ) * (view.low("sound.tracks") or 1)
    if whole is not None and parts > whole:
        yield view.against(
            "whole rate",
            f"Picture and sound ask for {show_bit_rate(int(parts))}; the whole file may have "
            f"{show_bit_rate(int(whole))}.",
            "The parts weigh more than the whole.",
            ("file.bit_rate", "picture.bit_rate", "sound.bit_rate"),
            "Lower the picture's rate, or raise the whole.",
            {"file.bit_rate": {"at_most": f"{int(parts * 51 // 50)} b/s"}},
        )


def _caps(view: View) -> Iterator[Contradiction]:
    rate = (view.low("picture.bit_rate") or Fraction(0)) + (
        view.low("sound.bit_rate") or Fraction(0)
    ) * (view.low("sound.tracks") or 1)
    for cap_key, length_key in (
        ("file.size", "file.duration"),
        ("delivery.total", "delivery.length"),
        ("delivery.week", "delivery.length"),
    ):
        cap, length = view.high(cap_key), view.low(length_key) or view.low("file.duration")
        if cap is None or not length or not rate or rate * length / 8 <= cap:
            continue
        fits = int(cap * 8 / length)
        longest = int(cap * 8 / rate)
        keys = tuple(
            k
            for k in (cap_key, "picture.bit_rate", "sound.bit_rate", length_key, "file.duration")
            if view.asks(k)
        )
        picture = fits - int((view.low("sound.bit_rate") or 0) * (view.low("sound.tracks") or 1))
        yield view.against(
            "cap",
            f"{show_bytes(int(cap))} cannot hold {float(length):g} s at "
            f"{show_bit_rate(int(rate))}.",
            f"That is {show_bytes(int(rate * length / 8))} before the wrapper; the cap holds "
            f"{show_bit_rate(fits)} over that time, or {longest} s at that rate.",
            keys,
            "Allow a lower rate, a shorter programme, or a larger file.",
            {"picture.bit_rate": {"at_most": f"{picture * 49 // 50} b/s"}}
            if picture > 0 and view.asks("picture.bit_rate")
            else {},
        )
    one, every = view.low("file.size"), view.high("delivery.total")
    if one is not None and every is not None and one * (view.low("delivery.items") or 1) > every:
        yield view.against(
            "cap",
            "The files asked for do not fit into their crate.",
            f"Each is at least {show_bytes(int(one))}; all together may have "
            f"{show_bytes(int(every))}.",
            ("delivery.total", "file.size", "delivery.items"),
            "Ask for smaller files, or fewer.",
        )
    longest_all, shortest = view.high("file.duration"), view.low("file.duration")
    frames, rate_of = view.only("motion.frames"), view.only("motion.rate")
    if (
        frames
        and rate_of
        and shortest is not None
        and longest_all is not None
        and not shortest <= Fraction(frames) / rate_of <= longest_all
    ):
        length = Fraction(frames) / rate_of
        yield view.against(
            "frames",
            f"{frames} frames at {float(rate_of):g} fps last {float(length):g} s, which is not "
            f"the length asked for.",
            "Frames, rate and length must agree.",
            ("motion.frames", "file.duration", "motion.rate"),
            "Leave one of the three out.",
            {"motion.frames": None},
        )


def _clock(view: View) -> Iterator[Contradiction]:
    rates = view.values("motion.rate") or []
    if (
        view.only("file.drop_frame") is True
        and rates
        and not any(r in {Fraction(30000, 1001), Fraction(60000, 1001)} for r in rates)
    ):
        yield view.against(
            "drop-frame",
            f"Drop-frame timecode is asked at {float(rates[0]):g} fps.",
            "Numbers are dropped at 29.97 and 59.94 only (SMPTE ST 12-1).",
            ("file.drop_frame", "motion.rate"),
            "Leave drop-frame out.",
            {"file.drop_frame": None},
        )
    start = view.only("file.start_timecode")
    drop = view.only("file.drop_frame")
    if start and drop is not None and drop is not (";" in start):
        yield view.against(
            "drop-frame",
            f"{start} is written {'with' if ';' in start else 'without'} drop-frame, and "
            f"{'none' if ';' in start else 'drop-frame'} is asked.",
            "The mark before the frames tells: a semicolon with drop-frame, a colon without "
            "(SMPTE ST 12-1).",
            ("file.drop_frame", "file.start_timecode"),
            "Keep the timecode as it is written.",
            {"file.drop_frame": {"is": not drop}},
        )
    for rate in rates if start else []:
        try:
            timecode.read(start, rate, drop)
        except BadValue as error:
            yield view.against(
                "timecode",
                f"{start} is no timecode at {float(rate):g} fps.",
                error.what,
                ("file.start_timecode", "motion.rate"),
                "Ask for one that exists at this rate.",
                {"file.start_timecode": {"is": "10:00:00:00"}},
            )
    moving = view.high("motion.leader")
    parts = {
        key: low
        for key in ("motion.black_before", "motion.bars_before", "motion.slate")
        if (low := view.low(key))
    }
    if moving is not None and sum(parts.values()) > moving:
        yield view.against(
            "leader",
            "What is asked before the programme lasts longer than the time after which the "
            "picture must move.",
            "Black, colour bars and slate are the leader.",
            ("motion.leader", *parts),
            "Let the leader be at least as long as its parts.",
            {"motion.leader": None},
        )


CHECKS = (_exclude, _unrated, _ceilings, _caps, _clock)
