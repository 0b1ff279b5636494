"""What a plan should give: predicted facts, judged by the same ledger as measured ones.

Each stream's steps are folded over the master's format, and the encoding's facts laid over that.
"""

from __future__ import annotations

from fractions import Fraction

from .. import formats
from ..facts import Facts
from ..facts.properties import track_key
from ..units import geometry
from ..units.parts import scan_of
from ..units.values import Value
from .plan import MadePicture, MadeSound, Plan, amount_of

Values = dict[str, Value | None]


def predict(plan: Plan, number: int = 0) -> Facts:
    """Give the facts that one file of a plan should have."""
    file = plan.files[number]
    streams = [plan.streams[n] for n in file.streams]
    sounds = [s for s in streams if isinstance(s, MadeSound)]
    values: Values = {}
    for picture in streams:
        if isinstance(picture, MadePicture):
            values |= picture_facts(picture, plan.frames)
    values["sound.tracks"] = len(sounds)
    for track, sound in enumerate(sounds, 1):
        values |= {track_key(key, track): v for key, v in sound_facts(sound).items()}
    wrapper = formats.WRAPPERS[file.wrapper]
    values |= {
        "file.wrapper": file.wrapper,
        "file.size": amount_of(plan, number).expected,
        "file.duration": plan.seconds,
        "file.index_in_front": file.index_in_front if wrapper.index else None,
        "file.name": file.name,
    }
    return Facts().with_values("predicted", values)


def picture_facts(picture: MadePicture, frames: int) -> Values:
    """Give the facts of a picture that is made."""
    f, encoding = picture.format, picture.encoding
    row = encoding.row
    return {
        "picture.codec": encoding.codec,
        "picture.profile": encoding.profile,
        "picture.size": f.size,
        "picture.rotation": 0,
        "picture.interval_lines": row.interval_lines(f.size) if row.interval else None,
        "picture.pixel_aspect": f.pixel_aspect,
        "picture.display_aspect": geometry.display_aspect(f.size, f.pixel_aspect),
        "picture.chroma": f.chroma,
        "picture.bit_depth": f.depth,
        "picture.alpha": f.alpha,
        "picture.range": "full" if f.full_range else "limited",
        "picture.matrix": f.matrix,
        "picture.primaries": f.matrix,
        "picture.transfer": f.matrix,
        "motion.rate": f.rate,
        "motion.steady": True,
        "motion.frames": frames,
        "motion.scan": scan_of(f.fields),
        "motion.field_order": "none" if f.fields is None else f.fields.value,
        **encoding.facts(f),
    }


def sound_facts(sound: MadeSound) -> Values:
    """Give the facts of a sound track that is made."""
    f, encoding = sound.format, sound.encoding
    return {
        "sound.codec": encoding.codec,
        "sound.sample_rate": f.sample_rate,
        "sound.channels": f.channels,
        "sound.layout": f.layout,
        "sound.bit_depth": encoding.row.made_depth,
        "sound.bit_rate": encoding.rate(f),
        "sound.start_offset": Fraction(0),
        "sound.length_difference": Fraction(0),
    }
