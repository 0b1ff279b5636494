"""What a plan should give: predicted facts, judged by the same ledger as measured ones.

Each stream's steps are folded over the master's format, and the encoding's facts laid over that; a
copied one is what the master's is.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from math import ceil, floor

from .. import formats
from ..facts import Facts
from ..facts.apart import joined
from ..facts.properties import track_key
from ..formats.codec import PictureCodec
from ..formats.wrapper import Wrapper
from ..units import geometry
from ..units.fields import scan_of
from ..units.values import Value, fraction
from .captions import said as captions_said
from .encoding import QualitySound, RatedSound
from .leading import LED
from .loudness import DIALOGUE, LEVELS, expected
from .plan import File, Plan, amount_of_file
from .sound_coding import MODE
from .steps import PictureFormat
from .streams import HEADS, AnySound, CopiedPicture, CopiedSound, MadePicture, MadeSound, lengthened

Values = dict[str, Value | None]


# What the wrapper says of a picture, and not the coded stream itself.
OF_THE_WRAPPER = {"picture.tag", "picture.rotation"}


def predict(plan: Plan, masters: Sequence[Facts] = ()) -> Facts:
    """Give the facts that what a plan makes should have.

    Args:
        plan: what is made.
        masters: facts of its inputs, for what is copied.
    """
    files = enumerate(plan.files)
    every = [Facts().with_values("predicted", _of_file(plan, masters, n)) for n, _ in files]
    return every[0] if len(every) == 1 else joined(every)


def _of_file(plan: Plan, masters: Sequence[Facts], number: int) -> Values:
    file = plan.files[number]
    streams = [plan.streams[n] for n in file.streams]
    sounds = [s for s in streams if isinstance(s, AnySound)]
    wrapper = formats.WRAPPERS[file.wrapper]
    values: Values = {}
    for picture in streams:
        if isinstance(picture, MadePicture):
            values |= picture_facts(picture, wrapper, plan.frames)
            values |= _standing(plan, picture, masters)
        elif isinstance(picture, CopiedPicture):
            values |= copied_picture(picture, wrapper, masters[picture.input], plan.frames)
    values["sound.tracks"] = len(sounds)
    values["file.captions"] = captions_said(streams, masters)
    ends: Fraction | None = plan.seconds
    for track, sound in enumerate(sounds, 1):
        if isinstance(sound, CopiedSound):
            facts = copied_sound(sound, wrapper, masters[sound.input])
            # How long its frames are by themselves depends on what was hidden of them.
            ends = None if plan.folder else ends
        else:
            longer_track = lengthened(sound, plan.seconds - plan.programme)
            times = sound_times(longer_track, wrapper, plan.seconds)
            facts = sound_facts(sound, wrapper)
            facts |= _levels(sound, masters) | _lined_up(plan)
            if wrapper.picture:
                facts |= times
            else:
                # Coded sound alone ends with a whole frame.
                longer = times["sound.length_difference"]
                ends = None if longer is None else plan.seconds + fraction(longer)
        facts["sound.language"] = sound.language or None
        facts["sound.name"] = sound.name or None
        facts["sound.enabled"] = sound.enabled if wrapper.enables else None
        values |= {track_key(key, track): v for key, v in facts.items()}
    for key, names in wrapper.states.items():
        values[key] = names.get(str(values.get(key)), values.get(key))
    values |= {
        "file.wrapper": wrapper.read_as,
        "file.chapters": _chapters(plan, file),
        "file.size": amount_of_file(plan, number).expected,
        "file.duration": ends,
        "file.index_in_front": file.index_in_front if wrapper.index else None,
        "file.name": file.name if file.images is None else file.images.known_as(plan.frames),
    }
    values |= _broadcast(plan, file, wrapper)
    values |= _timecode(file, wrapper) | {f"file.{name}": text for name, text in file.about}
    if wrapper.still:
        values = {key: v for key, v in values.items() if not _of_motion(key)}
    return values


def _standing(plan: Plan, picture: MadePicture, masters: Sequence[Facts]) -> Values:
    """Say what stands at the start and the end, in seconds; what the programme itself begins with
    comes after what is set before it.
    """
    around, rate = plan.around, picture.format.rate
    taken = plan.inputs[picture.input]
    from_start = bool(masters) and not taken.first
    own = {key: masters[picture.input].fraction(key) if from_start else None for key in LED}
    values: Values = {"motion.black_after": around.after / rate} if around.after else {}
    if not around.before:
        return values | own
    values["motion.leader"] = plan.lead + (own["motion.leader"] or 0)
    for kind, key in {"bars": "motion.bars_before", "slate": "motion.slate"}.items():
        frames = sum(one.frames for one in around.before if one.kind == kind)
        values |= {key: frames / rate} if frames else {}
    black = around.before[0] if around.before[0].kind == "black" else None
    return values | {"motion.black_before": black.frames / rate if black else Fraction(0)}


def _lined_up(plan: Plan) -> Values:
    """Say for how long a tone goes with the bars that a file begins with."""
    first = plan.around.before[:1]
    picture = plan.picture
    if picture is None or not first or first[0].kind != "bars":
        return {}
    return {"sound.tone_before": first[0].frames / picture.format.rate}


# What an image has of them all the same.
OF_AN_IMAGE = {"motion.frames", "motion.scan", "motion.field_order"}
OF_A_STREAM = ("motion.", "picture.bit_rate", "picture.peak", "picture.rate", "picture.vbv")


def _of_motion(key: str) -> bool:
    """Say whether a fact is one of a stream, which one image does not have."""
    moving = key.startswith(OF_A_STREAM) and key not in OF_AN_IMAGE
    return moving or key in {"file.duration", "picture.slices"}


def _chapters(plan: Plan, file: File) -> int | None:
    """Give the chapters; of a part of a master nobody knows how many lie in it."""
    part = any(one.first for one in plan.inputs) and file.chapters
    return None if part else file.chapters


def _broadcast(plan: Plan, file: File, wrapper: Wrapper) -> Values:
    if not wrapper.broadcast:
        return {}
    made = file.broadcast
    rate = plan.sounds[0].format.sample_rate
    start = None if made is None else Fraction(made.reference, rate)
    return {"file.broadcast_extension": made is not None, "file.start_time": start}


def _timecode(file: File, wrapper: Wrapper) -> Values:
    if not wrapper.timecode:
        return {}
    start = file.timecode
    return {
        "file.start_timecode": start,
        "file.drop_frame": None if start is None else ";" in start,
        "file.timecode_tracks": int(start is not None and wrapper.boxes),
    }


def picture_facts(picture: MadePicture, wrapper: Wrapper, frames: int) -> Values:
    """Give the facts of a picture that is made."""
    f, encoding = picture.format, picture.encoding
    row = encoding.row
    values: Values = {
        "picture.codec": encoding.codec,
        "picture.profile": encoding.profile or None,
        "picture.size": f.size,
        "picture.rotation": 0,
        "picture.interval_lines": f.above if row.interval else None,
        "picture.pixel_aspect": f.pixel_aspect,
        "picture.display_aspect": geometry.display_aspect(f.picture_size, f.pixel_aspect),
        "picture.chroma": f.chroma,
        "picture.bit_depth": f.depth,
        "picture.alpha": f.alpha,
        "picture.range": "full" if f.full_range else "limited",
        "picture.matrix": f.matrix,
        "picture.primaries": f.matrix,
        "picture.transfer": _transfer(row, f),
        "motion.rate": f.rate,
        "motion.steady": True,
        "motion.frames": frames,
        "motion.scan": scan_of(f.fields),
        "motion.field_order": "none" if f.fields is None else f.fields.value,
        **encoding.facts(f),
    }
    return values | _unstated(row, encoding.profile, wrapper)


def _transfer(row: PictureCodec, f: PictureFormat) -> str | None:
    transfer = f.transfer or f.matrix
    return None if row.made is not None and transfer in row.made.no_word_for else transfer


def _unstated(row: PictureCodec, profile: str, wrapper: Wrapper) -> Values:
    making = row.made
    return {} if making is None else dict.fromkeys(making.unstated(profile, wrapper.read_as))


def copied_picture(picture: CopiedPicture, wrapper: Wrapper, master: Facts, frames: int) -> Values:
    """Give the facts of a picture that is copied."""
    mine = {k for k in master if k.startswith(("picture.", "motion."))} - OF_THE_WRAPPER
    values: Values = {key: master.value(key) for key in mine}
    peak = master.value("picture.peak_bit_rate")
    if not _alike(wrapper, master):
        source = formats.WRAPPERS.get(str(master.value("file.wrapper")))
        # What only the wrapper called so, the coded frames call by their own name.
        values |= dict.fromkeys(source.states if source is not None else ())
        # What another wrapper writes before each frame is counted too.
        values["picture.rate_deviation"] = None
        if peak is not None:
            values["picture.peak_bit_rate"] = peak + ceil(8 * HEADS * picture.format.rate)
    values |= {"picture.rotation": 0, "motion.frames": frames}
    if wrapper.bare:
        values["motion.timed"] = None
    return values | _unstated(formats.PICTURE[picture.codec], picture.profile, wrapper)


def _alike(wrapper: Wrapper, master: Facts) -> bool:
    """Say whether a file is put into a wrapper that does as its own does."""
    source = formats.WRAPPERS.get(str(master.value("file.wrapper")))
    return source is not None and (
        source.key == wrapper.read_as or (source.boxes and wrapper.boxes)
    )


def copied_sound(sound: CopiedSound, wrapper: Wrapper, master: Facts) -> Values:
    """Give the facts of a sound track that is copied."""
    f, number = sound.format, sound.track
    values: Values = {
        "sound.codec": sound.codec,
        "sound.sample_rate": f.sample_rate,
        "sound.channels": f.channels,
        "sound.layout": f.layout if _names(wrapper, sound) else f"{f.channels} channels",
        "sound.bit_depth": master.value(track_key("sound.bit_depth", number)),
        "sound.bit_rate": sound.rate,
        **{key: master.value(track_key(key, number)) for key in (*LEVELS, DIALOGUE, MODE)},
    }
    # Each wrapper has its own way to say where the first sample is, and how it rounds that.
    if _alike(wrapper, master) and wrapper.picture:
        for key in ("sound.start_offset", "sound.length_difference"):
            values[key] = master.value(track_key(key, number))
    return values


def _names(wrapper: Wrapper, sound: AnySound) -> bool:
    """Say whether a wrapper tells which loudspeakers a track is for."""
    return not sound.row.plain or wrapper.names_speakers or sound.format.channels <= 2


def sound_facts(sound: MadeSound, wrapper: Wrapper) -> Values:
    """Give the facts of a sound track that is made."""
    f, encoding = sound.format, sound.encoding
    said = encoding if isinstance(encoding, RatedSound) else None
    return {
        "sound.codec": encoding.codec,
        "sound.sample_rate": f.sample_rate,
        "sound.channels": f.channels,
        "sound.layout": f.layout if _names(wrapper, sound) else f"{f.channels} channels",
        "sound.bit_depth": encoding.depth,
        "sound.bit_rate": encoding.rate(f),
        DIALOGUE: None if said is None else said.dialogue,
        MODE: (said.mode or None) if said is not None else None,
    }


def _levels(sound: MadeSound, masters: Sequence[Facts]) -> Values:
    """Give what a track's loudness and peaks should come to."""
    if not masters:
        return {}
    heard = expected(sound, masters[sound.input])
    return {
        "sound.loudness": heard.loudness,
        "sound.true_peak": heard.peak,
        "sound.max_short_term": heard.short_term,
    }


def sound_times(sound: MadeSound, wrapper: Wrapper, seconds: Fraction) -> Values:
    """Give when a track begins and how much longer than the picture it is.

    A coder works in frames and starts before the first sample; a wrapper tells decoders to leave
    that out, or does not, and may count in coarse ticks.
    """
    making, frame = sound.encoding.row.made, sound.encoding.row.frame_samples
    samples, rate = sound.format.samples or 0, sound.format.sample_rate
    if isinstance(sound.encoding, QualitySound):
        # Its blocks are long or short as the sound has it, and the last is whole.
        return {"sound.start_offset": Fraction(0), "sound.length_difference": None}
    if making is None or not isinstance(sound.encoding, RatedSound):
        # How many samples a packet has is the muxer's affair, and with it how its end is rounded.
        exact = Fraction(0) if wrapper.tick is None else None
        return {"sound.start_offset": Fraction(0), "sound.length_difference": exact}
    coded = samples + (making.delay if making.flushes else 0)
    last = (-(-coded // frame) - 1) * frame - making.delay
    first = 0 if wrapper.primes else -making.delay
    held = samples - last if making.trims and wrapper.trims else frame
    begins, ends = (_ticked(Fraction(n, rate), wrapper.tick) for n in (first, last))
    return {
        "sound.start_offset": begins,
        "sound.length_difference": ends + Fraction(held, rate) - begins - seconds,
    }


def _ticked(time: Fraction, tick: Fraction | None) -> Fraction:
    """Round a time to a wrapper's ticks, halves away from nought."""
    if tick is None:
        return time
    whole = floor(abs(time) / tick + Fraction(1, 2)) * tick
    return whole if time >= 0 else -whole
