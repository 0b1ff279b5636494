"""The picture's bit rate, ceiling, buffer and level; and the size that comes of them."""

from __future__ import annotations

from fractions import Fraction
from math import ceil
from typing import cast

from . import codecs, rates, vbv
from .levels import h264
from .plan import PictureTarget, Plan, SoundTarget
from .rules import limits
from .settle import Notes, Settled
from .spec import Spec
from .values import Size, show_bit_count, show_bit_rate, show_bytes


def rate_control(
    spec: Spec, settled: Settled, notes: Notes, wrapper: str, contents: rates.Contents, sound: SoundTarget | None,
    picture: PictureTarget, share: int | None,
) -> PictureTarget:  # fmt: skip
    """Settle the picture's bit rate, ceiling, buffer and level; `share` is what the crate leaves this item, in bytes."""
    asked = spec.requirement("picture.bit_rate")
    exact = asked is not None and asked.rule.operator == "is"
    strays = spec.requirement("picture.rate_deviation")
    stray = cast(Fraction, limits(strays)[-1]) if strays is not None and strays.rule.operator in {"at_most", "between"} else None
    constant = exact or stray is not None or settled.get("picture.rate_mode", "variable") == "constant"
    cap, whose = size_cap(settled, share)
    peak = settled.cap("picture.peak_bit_rate")
    target: int = settled.get("picture.bit_rate", usual_rate(picture)) or usual_rate(picture)
    highest = settled.cap("picture.level")
    top = h264.by_number(highest) if highest is not None and picture.codec == "h264" else None
    if cap is not None and not exact and "picture.bit_rate" not in settled.chosen:
        sound_bytes = sound_bytes_of(sound, contents.seconds)
        solved = rates.solve_picture_rate(cap, sound_bytes, rates.overhead(wrapper, contents, cap), contents.seconds, whose)
        if not constant and "picture.bit_rate" not in settled.house:
            # Filling a cap beyond what a level, the spec or the eye can use only makes the file big.
            beyond = [2 * usual_rate(picture), settled.cap("picture.bit_rate")]
            if top:
                beyond.append(h264.max_bit_rate(top, picture.profile) * 4 // 5)
            target = min(int(b) for b in beyond if b is not None)
        if solved < target or whose == "the file's cap":
            target = min(solved, target)
            notes.step(
                f"Rate solved from {whose}: {show_bit_rate(target)}",
                f"{show_bytes(cap)} over {float(contents.seconds):.1f} s, less sound and wrapper.",
                "file.size", "picture.bit_rate",
            )  # fmt: skip
    if peak is not None:
        # Over any second at most ceiling + buffer bits pass, so four fifths and one fifth never exceed the peak.
        max_rate, buffer = peak * 4 // 5, peak // 5
        target = min(target, max_rate)
    elif constant:
        max_rate, buffer = target, spec.coding.buffer_bits or target
    else:
        max_rate, buffer = target * 2, target * 2
    if spec.coding.buffer_bits:
        # Under a ceiling the spec's buffer may only be smaller: a larger one would let a second weigh more than is asked.
        buffer = min(buffer, spec.coding.buffer_bits) if peak is not None else spec.coding.buffer_bits
    if settled.cap("picture.vbv") is not None:
        buffer = min(buffer, int(settled.get("picture.vbv", buffer)))
    if stray is not None:
        # What a second may stray is what the buffer can hold back; less than a frame's share it cannot be.
        buffer = min(buffer, max(int(target * stray / 100), ceil(target / picture.rate)))
    usual = usual_rate(picture)
    if target * 4 < usual:
        notes.caution(
            "picture.bit_rate", "The rate is thin for this picture.", "Blocks will show in moving or grainy scenes.",
            f"{show_bit_rate(target)}; {show_bit_rate(usual)} is usual at this size and rate (common practice)",
            "Shorten the cut, lower the sound's rate, or ask for a larger cap.",
        )  # fmt: skip
    if picture.codec == "mpeg2video" and picture.named:
        # The header counts the buffer in units: rounded up it would name more than is allowed, but a frame it must hold.
        whole = buffer // vbv.MPEG2_UNIT * vbv.MPEG2_UNIT
        buffer = whole if whole * picture.rate >= max_rate else buffer
    level = None
    if picture.codec == "h264":
        size = Size(picture.width, picture.height)
        found = h264.lowest(size, picture.rate, target, picture.profile, picture.interlaced, picture.reference_frames)
        at: Fraction | None = None
        requirement = spec.requirement("picture.level")
        if requirement is not None and requirement.rule.operator == "is":
            at = Fraction(cast(Fraction, limits(requirement)[0]))
        chosen = h264.by_number(at) if at is not None else found
        if found is None or chosen is None or (top is not None and found.number > top.number):
            what, figures, way_out = _out_of_level(picture, target, top, found)
            notes.caution("picture.level", what, "A player built to the level may refuse or stutter.", figures, way_out, blocks=True)
            chosen = chosen or h264.TABLE_A_1[-1]
        level = chosen.number
        max_rate = min(max_rate, h264.max_bit_rate(chosen, picture.profile))
        buffer = min(buffer, h264.max_buffer(chosen, picture.profile))
    if buffer * picture.rate < target:
        notes.caution(
            "picture.vbv", "The rate buffer cannot hold one frame.", "A frame must lie in it whole before it is shown.",
            f"{show_bit_count(buffer)} against {show_bit_count(ceil(target / picture.rate))} of the average frame at {show_bit_rate(target)}",
            "Choose a larger buffer, or a lower rate.", blocks=True,
        )  # fmt: skip
    return picture.model_copy(
        update={"bit_rate": target, "max_rate": max(max_rate, target), "buffer": buffer, "constant": constant, "level": level}
    )


def _out_of_level(picture: PictureTarget, rate: int, top: h264.Level | None, need: h264.Level | None) -> tuple[str, str, str]:
    """Say which limit of the highest allowed level is passed: (what, figures, way out)."""
    size = Size(picture.width, picture.height)
    highest = top
    if picture.interlaced and (top is None or not h264.codes_fields(top)):
        highest = h264.by_number(h264.FIELDS[1])
    if highest is not None and h264.holds_picture(highest, size, picture.rate, picture.interlaced, picture.reference_frames):
        most = h264.max_bit_rate(highest, picture.profile)
        fields = ", the highest with fields," if highest is not top else ""
        return (
            "The asked level does not allow this rate." if highest is top else "No level allows this rate in fields.",
            f"{show_bit_rate(rate)}; level {float(highest.number):g}{fields} allows {show_bit_rate(most)} in {picture.profile}", f"Choose at most {show_bit_rate(most)}.",
        )  # fmt: skip
    held = f"; level {float(top.number):g} holds {top.max_fs} macroblocks, {top.max_mbps} a second" if top else ""
    blocks = h264.macroblocks(size, picture.interlaced)
    return (
        "The asked level cannot hold this picture.",
        f"{blocks} macroblocks, {float(blocks * picture.rate):.0f} a second, need {f'level {float(need.number):g}' if need else 'more than any level'}{held}",
        "Ask the recipient to allow the higher level, or a smaller picture.",
    )  # fmt: skip


def size_cap(settled: Settled, share: int | None) -> tuple[int | None, str]:
    """Give the most bytes that a file may have, and whose limit that is."""
    cap = settled.cap("file.size")
    if share is not None and (cap is None or share < cap):
        return share, "what the crate leaves it"
    return (None if cap is None else int(cap)), "the file's cap"


def usual_rate(picture: PictureTarget) -> int:
    """Give a usual bit rate: 8 Mb/s for 720p25 H.264 (common practice), in proportion to samples."""
    per_second = picture.width * picture.height * picture.rate
    base = Fraction(8_000_000) * per_second / (1280 * 720 * 25)
    return int(base * (2 if picture.codec == "mpeg2video" else 1)) // 1000 * 1000


def sound_bytes_of(sound: SoundTarget | None, seconds: Fraction) -> int:
    """Give the bytes of the coded sound."""
    if sound is None:
        return 0
    codec = codecs.SOUND[sound.codec]
    rate = sound.bit_rate or sound.sample_rate * codecs.LAYOUT_CHANNELS[sound.layout] * (codec.bit_depth or 16)
    return rates.payload_bytes(rate, seconds)


def total_bytes(plan: Plan, contents: rates.Contents) -> int:
    """Predict the size of the file in bytes."""
    payload = rates.payload_bytes(plan.picture.bit_rate, plan.seconds) + sound_bytes_of(plan.sound, plan.seconds)
    return payload + rates.overhead(plan.wrapper, contents, payload)
