"""The picture's bit rate, ceiling, buffer and level; and the size that comes of them."""

from __future__ import annotations

from fractions import Fraction
from math import ceil
from typing import cast

from .. import formats
from ..errors import Impossible
from ..formats.levels import Level, Levels, Load
from ..formats.wrapper import Contents
from ..specs.rules import limits
from ..specs.spec import Spec
from ..units import loudspeakers
from ..units.values import Size, show_bit_count, show_bit_rate, show_bytes
from . import rates
from .plan import PictureTarget, Plan, SoundTarget
from .resolve import Notes, Resolver


def rate_control(
    spec: Spec,
    settled: Resolver,
    notes: Notes,
    wrapper: str,
    contents: Contents,
    sound: SoundTarget | None,
    picture: PictureTarget,
    share: int | None,
) -> PictureTarget:
    """Settle the picture's bit rate, ceiling, buffer and level; `share` is what the crate leaves
    this item, in bytes.
    """
    asked = spec.requirement("picture.bit_rate")
    exact = asked is not None and asked.rule.operator == "is"
    strays = spec.requirement("picture.rate_deviation")
    stray = (
        cast(Fraction, limits(strays)[-1])
        if strays is not None and strays.rule.operator in {"at_most", "between"}
        else None
    )
    constant = (
        exact or stray is not None or settled.get("picture.rate_mode", "variable") == "constant"
    )
    cap, whose = size_cap(settled, share)
    peak = settled.cap("picture.peak_bit_rate")
    target: int = settled.get("picture.bit_rate", usual_rate(picture)) or usual_rate(picture)
    codec = formats.PICTURE[picture.codec]
    levels, highest = codec.levels, settled.cap("picture.level")
    numbered = levels if levels is not None and not levels.named_with_profile else None
    top = numbered.by_number(highest, picture.profile) if numbered and highest else None
    if cap is not None and not exact and "picture.bit_rate" not in settled.chosen:
        sound_bytes = sound_bytes_of(sound, contents.seconds)
        solved = rates.solve_picture_rate(
            cap, sound_bytes, rates.overhead(wrapper, contents, cap), contents.seconds, whose
        )
        if not constant and "picture.bit_rate" not in settled.house:
            # Filling a cap beyond what a level, the spec or the eye can use only makes the file
            # big.
            beyond = [2 * usual_rate(picture), settled.cap("picture.bit_rate")]
            if top:
                beyond.append(top.bit_rate * 4 // 5)
            target = min(int(b) for b in beyond if b is not None)
        if solved < target or whose == "the file's cap":
            target = min(solved, target)
            notes.step(
                f"Rate solved from {whose}: {show_bit_rate(target)}",
                f"{show_bytes(cap)} over {float(contents.seconds):.1f} s, less sound and wrapper.",
                "file.size",
                "picture.bit_rate",
            )
    floor = settled.floor("picture.bit_rate")
    limit = whose if cap is not None and floor is not None and target < floor else ""
    if peak is not None:
        max_rate, buffer = _under(peak, floor, picture.rate)
        if floor is not None and max_rate < floor <= target:
            limit = "the peak"
        target = min(target, max_rate)
    elif constant:
        max_rate, buffer = target, spec.coding.buffer_bits or target
    else:
        max_rate, buffer = target * 2, target * 2
    if spec.coding.buffer_bits:
        # Under a ceiling the spec's buffer may only be smaller: a larger one would let a second
        # weigh more than is asked.
        buffer = (
            min(buffer, spec.coding.buffer_bits) if peak is not None else spec.coding.buffer_bits
        )
    if settled.cap("picture.vbv") is not None:
        buffer = min(buffer, int(settled.get("picture.vbv", buffer)))
    if stray is not None:
        # What a second may stray is what the buffer can hold back; less than a frame's share it
        # cannot be.
        buffer = min(buffer, max(int(target * stray / 100), ceil(target / picture.rate)))
    usual = usual_rate(picture)
    if target * 4 < usual:
        notes.caution(
            "picture.bit_rate",
            "The rate is thin for this picture.",
            "Blocks will show in moving or grainy scenes.",
            f"{show_bit_rate(target)}; {show_bit_rate(usual)} is usual at this size and rate "
            f"(common practice)",
            "Shorten the cut, lower the sound's rate, or ask for a larger cap.",
        )
    if picture.named:
        # The header counts the buffer in units: rounded up it would name more than is allowed, but
        # a frame it must hold.
        whole = buffer // codec.buffer_unit * codec.buffer_unit
        buffer = whole if whole * picture.rate >= max_rate else buffer
    level = None
    if numbered is not None:
        load = Load(
            Size(picture.width, picture.height),
            picture.rate,
            picture.interlaced,
            picture.reference_frames,
        )
        found = numbered.lowest(load, target, picture.profile)
        at: Fraction | None = None
        requirement = spec.requirement("picture.level")
        if requirement is not None and requirement.rule.operator == "is":
            at = Fraction(cast(Fraction, limits(requirement)[0]))
        chosen = numbered.by_number(at, picture.profile) if at is not None else found
        if found is None or chosen is None or (top is not None and found.number > top.number):
            what, figures, way_out = _out_of_level(
                numbered, load, picture, target, top, found, floor
            )
            notes.caution(
                "picture.level",
                what,
                "A player built to the level may refuse or stutter.",
                figures,
                way_out,
                blocks=True,
            )
            chosen = chosen or numbered.table(picture.profile)[-1]
        level = chosen.number
        max_rate = min(max_rate, chosen.bit_rate)
        buffer = buffer if chosen.buffer is None else min(buffer, chosen.buffer)
    elif levels is not None:
        picture = _named_level(levels, picture, target, floor, notes)
    if floor is not None and target < floor and limit:
        notes.caution(
            "picture.bit_rate",
            f"{limit[0].upper()}{limit[1:]} leaves the picture less than the spec asks.",
            "Whatever is made breaks one of the two.",
            f"{show_bit_rate(target)} left, at least {show_bit_rate(ceil(floor))} asked",
            _out_of_reach(limit, cap, ceil(floor), sound, contents),
            blocks=True,
        )
    if buffer * picture.rate < target:
        notes.caution(
            "picture.vbv",
            "The rate buffer cannot hold one frame.",
            "A frame must lie in it whole before it is shown.",
            f"{show_bit_count(buffer)} against {show_bit_count(ceil(target / picture.rate))} of "
            f"the average frame at {show_bit_rate(target)}",
            "Choose a larger buffer, or a lower rate.",
            blocks=True,
        )
    return picture.model_copy(
        update={
            "bit_rate": target,
            "max_rate": max(max_rate, target),
            "buffer": buffer,
            "constant": constant,
            "level": level,
        }
    )


def _under(peak: int, floor: Fraction | None, rate: Fraction) -> tuple[int, int]:
    """Split what any second may hold into a ceiling and a buffer: (b/s, bits).

    Over any second at most ceiling + buffer bits pass, so four fifths and one fifth never exceed
    the peak. A spec whose least rate lies above four fifths gets a higher ceiling and a smaller
    buffer, down to what two frames need.
    """
    ceiling = peak * 4 // 5
    if floor is not None and ceiling < floor:
        ceiling = max(ceiling, min(ceil(floor * Fraction(51, 50)), int(peak - 2 * peak / rate)))
    return ceiling, peak - ceiling


def _out_of_reach(
    limit: str, cap: int | None, floor: int, sound: SoundTarget | None, contents: Contents
) -> str:
    """Name a way out of a limit that leaves less than the least rate: one that is legal under
    both.
    """
    if limit == "the peak" or cap is None:
        return "Ask the recipient which of the two counts."
    if limit != "the file's cap":
        return "Put fewer items into the crate, or mark a shorter range."
    each = Fraction(floor, 8) + Fraction(sound_bytes_of(sound, contents.seconds)) / contents.seconds
    most = int(Fraction(cap) * Fraction(98, 100) / each)
    return f"Deliver a marked range of at most {most} s, or ask the recipient for a larger cap."


def _named_level(
    levels: Levels, picture: PictureTarget, rate: int, floor: Fraction | None, notes: Notes
) -> PictureTarget:
    """Hold a picture against the level that is asked by profile and level, or take the lowest that
    holds it.
    """
    load = Load(Size(picture.width, picture.height), picture.rate, picture.interlaced)
    asked = levels.by_name(picture.profile_level) if picture.profile_level else None
    level = asked or levels.lowest(load, rate, picture.profile)
    if level is None:
        notes.caution(
            "picture.profile_level",
            "No level of this profile holds this picture.",
            "A player built to a level may refuse or stutter.",
            levels.said(load),
            "Ask the recipient for a smaller picture or another codec.",
            blocks=True,
        )
        return picture
    if not level.holds(load):
        notes.caution(
            "picture.profile_level",
            "The asked level cannot hold this picture.",
            "A player built to the level may refuse or stutter.",
            f"{levels.said(load)}; {level.name} holds {level.says}",
            "Ask the recipient to allow a higher level, or a smaller picture.",
            blocks=True,
        )
    elif rate > level.bit_rate:
        notes.caution(
            "picture.profile_level",
            "The asked level does not allow this rate.",
            "A player built to the level may refuse or stutter.",
            f"{show_bit_rate(rate)}; {level.name} allows {show_bit_rate(level.bit_rate)}",
            _lower_rate(level.bit_rate, floor),
            blocks=True,
        )
    return (
        picture if asked is not None else picture.model_copy(update={"profile_level": level.name})
    )


def _lower_rate(most: int, floor: Fraction | None) -> str:
    """Say which rate to choose, where the spec allows it."""
    if floor is not None and most < floor:
        return (
            f"The spec asks for at least {show_bit_rate(ceil(floor))}: ask the "
            f"recipient which of the two counts."
        )
    return f"Choose at most {show_bit_rate(most)}."


def _out_of_level(
    levels: Levels,
    load: Load,
    picture: PictureTarget,
    rate: int,
    top: Level | None,
    need: Level | None,
    floor: Fraction | None,
) -> tuple[str, str, str]:
    """Say which limit of the highest allowed level is passed: (what, figures, way out)."""
    highest = top
    if load.interlaced and (top is None or not top.fields):
        highest = levels.with_fields()[-1]
    if highest is not None and highest.holds(load):
        fields = ", the highest with fields," if highest is not top else ""
        profile = f" in {picture.profile}" if levels.by_profile else ""
        return (
            "The asked level does not allow this rate."
            if highest is top
            else "No level allows this rate in fields.",
            f"{show_bit_rate(rate)}; level {highest.name}{fields} allows "
            f"{show_bit_rate(highest.bit_rate)}{profile}",
            _lower_rate(highest.bit_rate, floor),
        )
    held = f"; level {top.name} holds {top.says}" if top else ""
    return (
        "The asked level cannot hold this picture.",
        f"{levels.said(load)}; it needs {f'level {need.name}' if need else 'more than any level'}"
        f"{held}",
        "Ask the recipient to allow the higher level, or a smaller picture.",
    )


def over_cap(
    plan: Plan,
    settled: Resolver,
    contents: Contents,
    total: int,
    share: int | None,
    notes: Notes,
) -> None:
    """Say that a file is predicted over its cap; where no rate that the spec allows brings it
    under, the route is blocked.
    """
    cap, whose = size_cap(settled, share)
    if cap is None or total <= cap:
        return
    floor = settled.floor("picture.bit_rate") or 0
    try:
        room = rates.overhead(plan.wrapper, contents, cap)
        fits = rates.solve_picture_rate(
            cap, sound_bytes_of(plan.sound, plan.seconds), room, plan.seconds, whose
        )
    except Impossible:
        fits = 0
    reachable = fits >= max(floor, 1)
    way_out = (
        f"Choose a picture bit rate of at most {show_bit_rate(fits)}."
        if reachable
        else _out_of_reach(
            whose, cap, max(ceil(floor), plan.picture.bit_rate), plan.sound, contents
        )
    )
    notes.caution(
        "file.size",
        f"The file is predicted over {whose}.",
        "What is over a cap is refused and can never be sealed.",
        f"{show_bytes(total)} against {show_bytes(cap)}",
        way_out,
        blocks=plan.picture.constant or not reachable,
    )


def size_cap(settled: Resolver, share: int | None) -> tuple[int | None, str]:
    """Give the most bytes that a file may have, and whose limit that is."""
    cap = settled.cap("file.size")
    if share is not None and (cap is None or share < cap):
        return share, "what the crate leaves it"
    return (None if cap is None else int(cap)), "the file's cap"


def usual_rate(picture: PictureTarget) -> int:
    """Give a usual bit rate in b/s, as its codec's row says."""
    made = formats.PICTURE[picture.codec].made
    assert made is not None
    return made.size.usual(Size(picture.width, picture.height), picture.rate)


def sound_bytes_of(sound: SoundTarget | None, seconds: Fraction) -> int:
    """Give the bytes of the coded sound."""
    if sound is None:
        return 0
    channels = len(loudspeakers.LAYOUTS[sound.layout])
    rate = formats.SOUND[sound.codec].rate_of(sound.sample_rate, channels, sound.bit_rate)
    return rates.payload_bytes(rate, seconds)


def total_bytes(plan: Plan, contents: Contents) -> int:
    """Predict the size of the file in bytes."""
    payload = rates.payload_bytes(plan.picture.bit_rate, plan.seconds) + sound_bytes_of(
        plan.sound, plan.seconds
    )
    return payload + rates.overhead(plan.wrapper, contents, payload)
