"""What a plan should give: predicted facts, judged by the same ledger as measured ones."""

from __future__ import annotations

from fractions import Fraction

from .. import formats
from ..facts import Facts
from ..units import geometry, loudspeakers
from ..units.values import Size, Value
from .plan import Plan


def predict(plan: Plan, frames: int, total: int, name: str) -> Facts:
    """Give the facts that the file of a plan should have."""
    p, s = plan.picture, plan.sound
    size = Size(p.width, p.height)
    # Frames that all have the same bytes, or a buffer that can hold nothing back: every second
    # weighs the same.
    even = p.constant and (
        p.buffer * 33 <= p.bit_rate or (p.gop == 1 and p.buffer * p.rate <= 2 * p.bit_rate)
    )
    coded = formats.PICTURE[p.codec]
    named = coded.names_buffer == "always" or p.constant or p.named
    least = coded.least_slices
    wrapper = formats.WRAPPERS[plan.wrapper]
    values: dict[str, Value | None] = {
        "picture.codec": p.codec,
        "picture.profile": p.profile,
        "picture.level": p.level,
        "picture.profile_level": p.profile_level or None,
        "picture.size": size,
        "picture.rotation": 0,
        "picture.interval_lines": coded.interval_lines(size) if coded.interval else None,
        "picture.pixel_aspect": p.pixel_aspect,
        "picture.display_aspect": geometry.display_aspect(size, p.pixel_aspect),
        "picture.chroma": p.chroma,
        "picture.bit_depth": p.bit_depth,
        "picture.alpha": False,
        "picture.range": "limited",
        "picture.matrix": p.matrix,
        "picture.primaries": p.matrix,
        "picture.transfer": p.matrix,
        "picture.bit_rate": p.bit_rate,
        "picture.peak_bit_rate": p.bit_rate
        if even
        else p.bit_rate + p.buffer
        if p.constant
        else min(p.max_rate + p.buffer, p.bit_rate * 3),
        # A constant rate through a larger buffer is even over many seconds, and any one of them may
        # stray: measuring tells.
        "picture.rate_mode": "constant" if even else None if p.constant else "variable",
        "picture.vbv": p.buffer if named else None,
        "picture.vbv_rate": p.max_rate if named else None,
        "picture.slices": least(size, p.interlaced) if least is not None else p.slices,
        "motion.rate": p.rate,
        "motion.steady": True,
        "motion.frames": frames,
        "motion.scan": "interlaced" if p.interlaced else "progressive",
        "motion.field_order": p.order if p.interlaced else "none",
        "motion.intra_only": p.gop == 1,
        "motion.longest_gop": p.gop,
        "motion.b_frames": p.b_frames,
        "sound.tracks": 0 if s is None else 1,
        "file.wrapper": plan.wrapper,
        "file.size": total,
        "file.duration": plan.seconds,
        "file.index_in_front": plan.index_in_front if wrapper.index else None,
        "file.name": name,
    }
    if s is not None:
        codec, channels = formats.SOUND[s.codec], len(loudspeakers.LAYOUTS[s.layout])
        values |= {
            "sound.codec": s.codec,
            "sound.sample_rate": s.sample_rate,
            "sound.channels": channels,
            "sound.layout": s.layout,
            "sound.bit_depth": codec.made_depth,
            "sound.bit_rate": codec.rate_of(s.sample_rate, channels, s.bit_rate),
            "sound.start_offset": Fraction(0),
            "sound.length_difference": Fraction(0),
        }
    return Facts().with_values("predicted", values)
