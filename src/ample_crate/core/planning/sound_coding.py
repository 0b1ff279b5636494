"""Sound: which codec, rate and layout it gets."""

from __future__ import annotations

from dataclasses import dataclass

from .. import formats
from ..errors import Impossible
from ..formats.ac3 import MAIN, ONE_CHANNEL, SEVERAL
from ..formats.codec import SoundCodec, SoundMaking
from ..formats.wrapper import Wrapper
from ..specs.requirement import Requirement
from ..specs.rules import limits, test
from ..specs.spec import Spec
from ..units import loudspeakers
from .encoding import LosslessSound, PlainSound, QualitySound, RatedSound, SoundEncoding
from .notes import NOTHING, Notes, caution
from .request import Request
from .tracks import channels_of, delivered

MODE = "sound.bitstream_mode"
EIGHT = 8


@dataclass(frozen=True)
class SoundCoding:
    """The codec, rate and layout that are asked for."""

    codec: SoundCodec
    sample_rate: int
    layout: str
    encoding: SoundEncoding
    notes: Notes


def plan_sound_codings(request: Request, wrapper: str, count: int) -> list[SoundCoding]:
    """Settle codec, sample rate and layout of each of so many tracks: as the first, but for what is
    asked of another by its number.

    Raises:
        Impossible: they cannot be made here.
    """
    first = plan_sound_coding(request, wrapper, count)
    return [first, *(_of_track(request, wrapper, first, n) for n in range(2, count + 1))]


def _of_track(request: Request, wrapper: str, first: SoundCoding, track: int) -> SoundCoding:
    layout = str(request.values.get(f"sound.layout@{track}", first.layout))
    if layout == first.layout and not request.values.spec.on(f"{MODE}@{track}"):
        return first
    making = first.codec.made
    assert making is not None
    _require_carried(first.codec, making, layout, formats.WRAPPERS[wrapper])
    encoding = _encoding(request, first.codec, making, layout, f"@{track}")
    return SoundCoding(first.codec, first.sample_rate, layout, encoding, NOTHING)


def plan_sound_coding(request: Request, wrapper: str, count: int = 1) -> SoundCoding:
    """Settle codec, sample rate and layout of so many tracks that are alike.

    Raises:
        Impossible: they cannot be made here.
    """
    values = request.values
    codec, making, notes = _codec(request, wrapper)
    rate = int(values.get("sound.sample_rate", 48000))
    if rate not in making.sample_rates:
        raise Impossible(
            f"{codec.label} has no sample rate of {rate} Hz.",
            f"It can be {', '.join(str(r) for r in sorted(making.sample_rates))} Hz. Was a bit "
            f"rate meant?",
        )
    channels = values.get("sound.channels", _usual_channels(request, wrapper, count))
    usual = loudspeakers.ANY.get(int(channels), "stereo")
    layout = str(values.get("sound.layout", usual))
    _require_carried(codec, making, layout, formats.WRAPPERS[wrapper])
    return SoundCoding(codec, rate, layout, _encoding(request, codec, making, layout), notes)


def _require_carried(codec: SoundCodec, making: SoundMaking, layout: str, place: Wrapper) -> None:
    count_of = loudspeakers.count(layout)
    if count_of not in making.channels:
        raise Impossible(
            f"{codec.label} cannot carry {layout}.", "Ask for a layout the codec carries."
        )
    if making.eight_in is not None and count_of == EIGHT and place.key not in making.eight_in:
        raise Impossible(
            f"{codec.label} has no word for {layout} in {place.label}.",
            "Ask for another layout, or ask the recipient whether another wrapper will do.",
        )
    if count_of is not None and count_of > place.channels:
        raise Impossible(
            f"{layout} is not put into {place.label} here.",
            f"Ask for a layout of at most {place.channels} channels, or another wrapper.",
        )


def _encoding(
    request: Request, codec: SoundCodec, making: SoundMaking, layout: str, track: str = ""
) -> SoundEncoding:
    """Settle how a track is encoded; `track` is what stands behind its properties' keys."""
    if codec.qualities:
        return _quality(request, codec, making, loudspeakers.count(layout) or 2, track)
    if codec.lossless:
        return LosslessSound(codec=codec.key, depth=_depth(request, making))
    if making.usual_rate is None:
        return PlainSound(codec=codec.key)
    bit_rate = int(request.values.get(f"sound.bit_rate{track}", making.usual_rate))
    mode = _mode(request, layout, track) if codec.dialogue else ""
    return RatedSound(codec=codec.key, bit_rate=bit_rate, mode=mode)


def _mode(request: Request, layout: str, track: str) -> str:
    """Settle what a track says that it is for.

    Raises:
        Impossible: it has more channels, or fewer, than that can have (ATSC A/52, Table 5.7).
    """
    usual = request.values.get(MODE) or MAIN
    mode = str(request.values.get(f"{MODE}{track}", usual) if track else usual)
    one = loudspeakers.count(layout) == 1
    if mode in (SEVERAL if one else ONE_CHANNEL):
        if not any(_asked(request, key) for key in (MODE, f"{MODE}{track}")):
            return MAIN  # the master's, of which other channels are made
        raise Impossible(
            f"Sound for '{mode}' has {'several channels' if one else 'one channel'}, and "
            f"{layout} is asked for.",
            f"Ask for {'stereo' if one else 'mono'}, or ask the recipient whether '{MAIN}' will "
            f"do.",
        )
    return mode


def _quality(
    request: Request, codec: SoundCodec, making: SoundMaking, channels: int, track: str
) -> QualitySound:
    """Give the best quality that usually takes no more than the rate asked for."""
    asked = int(request.values.get(f"sound.bit_rate{track}", making.usual_rate or 0))
    rates = [(quality, pair * channels // 2) for quality, pair in codec.qualities]
    fitting = [one for one in rates if one[1] <= asked] or rates[:1]
    quality, usual = fitting[-1]
    return QualitySound(codec=codec.key, quality=quality, usual=usual)


def _depth(request: Request, making: SoundMaking) -> int:
    """Give the least bits that hold the master's, of those that the spec takes."""
    have = int(request.master.value("sound.bit_depth") or 16)
    allowed = [d for d in making.depths if all(test(r)(d) for r in _depth_rules(request))]
    return next((d for d in allowed if d >= have), (allowed or making.depths)[-1])


def _depth_rules(request: Request) -> list[Requirement]:
    return [r for r in request.spec.on("sound.bit_depth") if r.when is None]


def _asked(request: Request, key: str) -> bool:
    """Say whether the spec or a person names a value."""
    return bool(request.spec.on(key)) or key in request.values.chosen


def _usual_channels(request: Request, wrapper: str, count: int) -> int:
    """Give the channels of a track where nobody asks: the master's, or one where each of its
    channels has a track; of a wrapper's only track the least that hold them all.
    """
    master, places = request.master, formats.WRAPPERS[wrapper].one_track
    if places:
        every = request.all_sound
        there = channels_of(every, delivered(every, request.tracks)) if every else []
        return next((n for n in sorted(places) if n >= len(there)), max(places))
    if count > 1 and master.value("sound.tracks"):
        every = request.all_sound
        there = channels_of(every, delivered(every, request.tracks))
        if len(there) == count:
            return 1
    return loudspeakers.count(str(master.value("sound.layout") or "stereo")) or 2


def _codec(request: Request, wrapper: str) -> tuple[SoundCodec, SoundMaking, Notes]:
    made, notes = formats.made_sound(), NOTHING
    usual = formats.USUAL_SOUND[0]
    if not request.spec.on("sound.codec"):
        fitting = [key for key in formats.USUAL_SOUND if wrapper in formats.made_in(made[key])]
        usual = (fitting or [usual])[0]
    key = _deep_enough(request, str(request.values.get("sound.codec", usual)))
    if key not in made:
        raise Impossible(
            f"Sound in '{key}' cannot be made here.", f"It can be one of {', '.join(made)}."
        )
    if wrapper not in formats.made_in(made[key]):
        key, notes = _that_fits(key, wrapper, request.spec)
    making = made[key].made
    assert making is not None
    return made[key], making, notes


def _deep_enough(request: Request, key: str) -> str:
    """Take another of the plain codecs that the spec allows where the first one, which nobody
    chose, has fewer bits than the master.
    """
    row, have = formats.SOUND.get(key), int(request.master.value("sound.bit_depth") or 0)
    settled = {*request.values.chosen, *request.values.house}
    if row is None or not row.plain or settled & {"sound.codec", "sound.codec@1"}:
        return key
    listed = [r for r in request.spec.on("sound.codec") if r.rule.operator == "one_of"]
    others = [formats.SOUND[str(v)] for r in listed for v in limits(r) if v in formats.SOUND]
    fitting = [o for o in others if o.made is not None and (o.made_depth or 0) >= have]
    return fitting[0].key if have > (row.made_depth or 0) and fitting else key


def fewer_bits(request: Request, encoding: SoundEncoding) -> Notes:
    """Tell of bits of the master that what is made has no place for."""
    have, depth = int(request.master.value("sound.bit_depth") or 0), encoding.depth
    if depth is None or have <= depth:
        return NOTHING
    return caution(
        "sound.bit_depth",
        f"{have} bit are cut to {depth}.",
        "The quietest passages lose their last bits; "
        + ("dither keeps the rest of them clean." if depth == 16 else "nothing is dithered."),
        f"{have} to {depth} bit",
        f"Ask the recipient whether {have} bit may be handed over.",
    )


def _that_fits(codec: str, wrapper: str, spec: Spec) -> tuple[str, Notes]:
    """Take another of the sound codecs that the spec allows where the first one has no place in the
    wrapper.
    """
    asked = list(spec.on("sound.codec"))
    listed = [str(v) for r in asked if r.rule.operator == "one_of" for v in limits(r)]
    others = listed if asked else list(formats.USUAL_SOUND)
    made = formats.made_sound()
    fitting = [o for o in others if o in made and wrapper in formats.made_in(made[o])]
    label, into = formats.label(codec), formats.label(wrapper)
    if not fitting:
        raise Impossible(
            f"{label} does not go into {into}.", "Ask for a sound codec that the wrapper carries."
        )
    return fitting[0], caution(
        "sound.codec",
        f"{label} does not go into {into}.",
        "A player would find no sound there.",
        f"{formats.label(fitting[0])} is taken",
        "Nothing to do if the recipient takes either.",
    )
