"""The picture's bit rate, ceiling and buffer, for codecs whose encoder keeps to a rate."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from math import ceil, floor
from typing import Literal, cast

from ..formats.codec import USUAL, Pace
from ..formats.levels import Level
from ..formats.size import RateControlled
from ..specs.requirement import Requirement
from ..specs.rules import bounds, limits
from ..units.values import read_seconds, show_bit_count, show_bit_rate, show_bytes
from . import programme
from .budget import OF_THE_FILE, Budget
from .captions import in_step
from .coding import Coding
from .curve import display_of
from .encoding import RatedPicture
from .level import Claim, highest_allowed, load_of, plan_level
from .notes import NOTHING, Notes, caution, in_all, step
from .request import Request
from .steps import PictureFormat

HARDWARE: Pace = "hardware"
THE_PEAK = "the peak"


@dataclass(frozen=True)
class Gop:
    """Frames from key frame to key frame at most, and B frames in a row."""

    frames: int
    b_frames: int

    @property
    def kept(self) -> int:
        """Give how many frames stay in the decoder for reference."""
        return 1 if self.frames == 1 else 4


def plan_gop(request: Request, coding: Coding, rate: Fraction) -> Gop:
    """Settle how frames lean on each other."""
    values, profile = request.values, coding.codec.profile(coding.profile)
    if values.get("motion.intra_only", False):
        return Gop(1, 0)
    usual = max(1, floor(read_seconds(request.spec.coding.key_frame_every) * rate))
    longest = max(1, int(values.get("motion.longest_gop", usual)))
    reorders = longest > 2 and (profile is None or profile.reorders)
    return Gop(longest, max(0, int(values.get("motion.b_frames", 2))) if reorders else 0)


@dataclass(frozen=True)
class RateAsked:
    """What a spec and the choices ask of the rate, in b/s.

    Attributes:
        exact: whether it is one figure.
        constant: whether every second must weigh the same.
        stray: per cent that a second may stray from it.
        floor, most: the least and the most of it.
        peak: the most of any second.
        chosen, preferred: whether a person, or the house, chose it.
    """

    exact: bool
    constant: bool
    stray: Fraction | None
    floor: Fraction | None
    most: int | None
    peak: int | None
    chosen: bool
    preferred: bool


def rate_asked(request: Request) -> RateAsked:
    """Gather what is asked of the rate."""
    spec, values = request.spec, request.values
    asked = spec.requirement("picture.bit_rate")
    exact = asked is not None and asked.rule.operator == "is"
    stray = _stray(request)
    mode = "constant" if exact or stray is not None else None
    return RateAsked(
        exact=exact,
        constant=(mode or values.get("picture.rate_mode", "variable")) == "constant",
        stray=stray,
        floor=values.floor("picture.bit_rate"),
        most=values.cap("picture.bit_rate"),
        peak=values.cap("picture.peak_bit_rate"),
        chosen="picture.bit_rate" in values.chosen,
        preferred="picture.bit_rate" in values.house,
    )


def _stray(request: Request) -> Fraction | None:
    strays = request.spec.requirement("picture.rate_deviation")
    if strays is None or strays.rule.operator not in {"at_most", "between"}:
        return None
    return cast(Fraction, limits(strays)[-1])


@dataclass(frozen=True)
class Flow:
    """A rate, its ceiling (b/s) and buffer (bits); and which limit leaves less than is asked."""

    rate: int
    max_rate: int
    buffer: int
    short_by: str = ""


def plan_rate(
    request: Request, coding: Coding, f: PictureFormat, gop: Gop, budget: Budget
) -> tuple[RatedPicture, Notes]:
    """Settle the picture's bit rate, ceiling, buffer and level."""
    model = coding.making.model(coding.profile)
    assert isinstance(model, RateControlled)
    asked, usual = rate_asked(request), model.usual(f.size, f.rate)
    spec = request.spec
    named = bool([*spec.on("picture.vbv"), *spec.on("picture.vbv_rate")])
    target, solved = _target(request, asked, usual, highest_allowed(request, coding), budget)
    flow = _buffered(request, asked, _flow(request, asked, target, f.rate, budget), f.rate)
    flow = _named(coding, flow, f.rate) if named else flow
    claim = Claim(load_of(f, gop.kept), flow.rate, asked.floor, budget.wrapper)
    level, out_of_level = plan_level(request, coding, claim)
    flow = _within(level, flow)
    display, light = display_of(request, f, coding)
    pace = _pace(request, coding)
    by_software = pace != HARDWARE
    encoding = RatedPicture(
        codec=coding.codec.key,
        profile=coding.profile,
        level=coding.profile_level or (level.name if level is not None else None),
        bit_rate=flow.rate,
        max_rate=max(flow.max_rate, flow.rate),
        buffer=flow.buffer,
        constant=asked.constant,
        passes=_passes(request, model) if by_software else 1,
        gop=gop.frames,
        b_frames=gop.b_frames,
        reference_frames=gop.kept,
        slices=int(request.values.get("picture.slices", 1)) if by_software else 1,
        named=named and by_software,
        mastering=display,
        light=light,
        captions=in_step(request, f, coding.making) and by_software,
        pace=pace,
    )
    notes = in_all(
        solved,
        _thin(flow.rate, usual, _reach(request, coding, asked, f.rate, budget)),
        out_of_level,
        _below_floor(flow, asked, budget),
        _stands_still(request, asked, coding),
        _holds_a_frame(flow, f.rate),
        _coded(coding, encoding),
    )
    return encoding, notes


def _passes(request: Request, model: RateControlled) -> Literal[1, 2]:
    return request.spec.coding.passes if model.two_passes else 1


def _target(
    request: Request, asked: RateAsked, usual: int, top: Level | None, budget: Budget
) -> tuple[int, Notes]:
    """Settle the rate: what is asked or usual, and no more than fills the cap."""
    target: int = request.values.get("picture.bit_rate", usual) or usual
    if budget.cap is None or asked.exact or asked.chosen:
        return target, NOTHING
    solved = budget.picture_rate()
    if not asked.constant and not asked.preferred:
        # Filling a cap beyond what a level, the spec or the eye can use only makes the file big.
        beyond = [2 * usual, asked.most, top.bit_rate * 4 // 5 if top else None]
        target = min(int(b) for b in beyond if b is not None)
    if solved >= target and budget.whose != OF_THE_FILE:
        return target, NOTHING
    target = min(solved, target)
    return target, step(
        f"Rate solved from {budget.whose}: {show_bit_rate(target)}",
        f"{show_bytes(budget.cap)} over {float(budget.seconds):.1f} s, less sound and wrapper.",
        "file.size",
        "picture.bit_rate",
    )


def _flow(request: Request, asked: RateAsked, target: int, rate: Fraction, budget: Budget) -> Flow:
    """Settle ceiling and buffer."""
    least, given = asked.floor, request.spec.coding.buffer_bits
    capped = budget.cap is not None and least is not None and target < least
    short_by = budget.whose if capped else ""
    if asked.peak is None:
        most = target if asked.constant else 2 * target
        return Flow(target, most, given or most, short_by)
    most, buffer = _under(asked.peak, least, rate)
    if least is not None and most < least <= target:
        short_by = THE_PEAK
    # Under a peak the spec's buffer may only be smaller: a larger one would let a second weigh
    # more than is asked.
    return Flow(min(target, most), most, min(buffer, given or buffer), short_by)


def _under(peak: int, least: Fraction | None, rate: Fraction) -> tuple[int, int]:
    """Split what any second may hold into a ceiling and a buffer: (b/s, bits).

    Over any second at most ceiling + buffer bits pass, so four fifths and one fifth never exceed
    the peak. A spec whose least rate lies above four fifths gets a higher ceiling and a smaller
    buffer, down to what two frames need.
    """
    ceiling = peak * 4 // 5
    if least is not None and ceiling < least:
        ceiling = max(ceiling, min(ceil(least * Fraction(51, 50)), int(peak - 2 * peak / rate)))
    return ceiling, peak - ceiling


def _buffered(request: Request, asked: RateAsked, flow: Flow, rate: Fraction) -> Flow:
    """Keep the buffer to what is asked of it."""
    values, buffer = request.values, flow.buffer
    if values.cap("picture.vbv") is not None:
        buffer = min(buffer, int(values.get("picture.vbv", buffer)))
    if asked.stray is not None:
        # What a second may stray is what the buffer can hold back; less than a frame's share it
        # cannot be.
        held_back = int(flow.rate * asked.stray / 100)
        buffer = min(buffer, max(held_back, ceil(flow.rate / rate)))
    return replace(flow, buffer=buffer)


def _named(coding: Coding, flow: Flow, rate: Fraction) -> Flow:
    """Bring the buffer to a figure that the header can name.

    It counts in units: rounded up it would name more than is allowed, but a frame it must hold.
    """
    unit = coding.codec.buffer_unit
    whole = flow.buffer // unit * unit
    return replace(flow, buffer=whole) if whole * rate >= flow.max_rate else flow


def _within(level: Level | None, flow: Flow) -> Flow:
    """Keep ceiling and buffer to what a level allows."""
    if level is None:
        return flow
    buffer = flow.buffer if level.buffer is None else min(flow.buffer, level.buffer)
    return replace(flow, max_rate=min(flow.max_rate, level.bit_rate), buffer=buffer)


@dataclass(frozen=True)
class Reach:
    """The highest rate that may be chosen, in b/s; and what to do where that is not enough."""

    rate: int
    beyond: str


def _reach(
    request: Request, coding: Coding, asked: RateAsked, rate: Fraction, budget: Budget
) -> Reach | None:
    """Find what limits the rate most, advice included; None where nothing does."""
    ends = [_end(requirement) for requirement in request.spec.on("picture.bit_rate")]
    levels, level = coding.codec.levels, highest_allowed(request, coding)
    if levels is not None and coding.profile_level:
        level = levels.by_name(coding.profile_level)
    ends += [level.bit_rate] if level is not None else []
    ends += [_under(asked.peak, asked.floor, rate)[0]] if asked.peak is not None else []
    found = [Reach(end, "Ask the recipient to take a higher rate.") for end in ends if end]
    if budget.cap is not None:
        larger = "Shorten the cut, lower the sound's rate, or ask for a larger cap."
        found.append(Reach(budget.most_rate(), larger))
    return min(found, key=lambda reach: reach.rate, default=None)


def _end(requirement: Requirement) -> int | None:
    """Give the most that a rule lets be chosen; next to nothing where it names all that may be."""
    if requirement.rule.operator in {"is", "one_of"}:
        return 1
    found = bounds(requirement)
    return None if found is None or found[1] is None else int(found[1])


def _thin(rate: int, usual: int, reach: Reach | None) -> Notes:
    if rate * 4 >= usual:
        return NOTHING
    most = usual if reach is None else min(usual, reach.rate)
    most -= most % (10_000 if most >= 1_000_000 else 100)  # as it is shown, and never more
    way_out = f"Choose a higher rate: there is room up to {show_bit_rate(most)}."
    if most <= rate and reach is not None:
        way_out = reach.beyond
    return caution(
        "picture.bit_rate",
        "The rate is thin for this picture.",
        "Blocks will show in moving or grainy scenes.",
        f"{show_bit_rate(rate)}; {show_bit_rate(usual)} is usual at this size and rate "
        f"(common practice)",
        way_out,
    )


def _below_floor(flow: Flow, asked: RateAsked, budget: Budget) -> Notes:
    if asked.floor is None or flow.rate >= asked.floor or not flow.short_by:
        return NOTHING
    limit, least = flow.short_by, ceil(asked.floor)
    return caution(
        "picture.bit_rate",
        f"{limit[0].upper()}{limit[1:]} leaves the picture less than the spec asks.",
        "Whatever is made breaks one of the two.",
        f"{show_bit_rate(flow.rate)} left, at least {show_bit_rate(least)} asked",
        out_of_reach(limit, least, budget),
        blocks=True,
    )


def _stands_still(request: Request, asked: RateAsked, coding: Coding) -> Notes:
    model = coding.making.model(coding.profile)
    fills = isinstance(model, RateControlled) and model.fills
    if asked.floor is None or fills or not programme.still(request.master):
        return NOTHING
    return caution(
        "picture.bit_rate",
        "A still takes hardly any rate after its first frame.",
        f"{coding.codec.label} is not filled up: the file would break the least rate that is "
        f"asked.",
        f"at least {show_bit_rate(ceil(asked.floor))} asked",
        "Hand in moving pictures, take another codec if the spec allows one, or ask the recipient "
        "whether a still may have less.",
        blocks=True,
    )


def out_of_reach(limit: str, least: int, budget: Budget) -> str:
    """Name a way out of a limit that leaves less than the least rate: one that is legal under
    both.
    """
    if limit == THE_PEAK or budget.cap is None:
        return "Ask the recipient which of the two counts."
    if limit != OF_THE_FILE:
        return "Put fewer items into the crate, or mark a shorter range."
    each = Fraction(least, 8) + Fraction(budget.sound_bytes) / budget.seconds
    most = int(Fraction(budget.cap) * Fraction(98, 100) / each)
    return f"Deliver a marked range of at most {most} s, or ask the recipient for a larger cap."


def _holds_a_frame(flow: Flow, rate: Fraction) -> Notes:
    if flow.buffer * rate >= flow.rate:
        return NOTHING
    return caution(
        "picture.vbv",
        "The rate buffer cannot hold one frame.",
        "A frame must lie in it whole before it is shown.",
        f"{show_bit_count(flow.buffer)} against {show_bit_count(ceil(flow.rate / rate))} of "
        f"the average frame at {show_bit_rate(flow.rate)}",
        "Choose a larger buffer, or a lower rate.",
        blocks=True,
    )


def _coded(coding: Coding, encoding: RatedPicture) -> Notes:
    reason = "One pass under a ceiling that holds over any second."
    if encoding.constant:
        reason = "Constant, so that every second weighs the same."
    elif encoding.passes == 2:
        reason = "Two passes: the first looks, the second spends."
    title = f"{coding.said} at {show_bit_rate(encoding.bit_rate)}"
    return step(title, reason, "picture.codec", "picture.bit_rate") + _PACED[encoding.pace]


def _pace(request: Request, coding: Coding) -> Pace:
    """Settle the pace: as chosen, where the codec has it."""
    return next((p for p in coding.making.paces & {request.values.pace}), USUAL)


_PACED: dict[Pace, Notes] = {
    "usual": NOTHING,
    "faster": step(
        "Encoded at the faster pace", "As chosen; at the same rate more is lost.", "picture.codec"
    ),
    HARDWARE: step(
        "Encoded by the machine's hardware",
        "As chosen; in one pass. What comes of it is measured as always.",
        "picture.codec",
    ),
}
