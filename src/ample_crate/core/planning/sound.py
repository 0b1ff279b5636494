"""Sound: from the master's tracks to the asked codec, rate and layout."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

from .. import formats
from ..errors import Impossible
from ..facts import Facts
from ..specs.rules import limits
from ..specs.spec import Spec
from ..units import loudspeakers
from ..units.values import show_bit_rate
from . import programme
from .motion import Notepad
from .plan import SoundTarget


def plan_sound(
    master: Facts,
    settle: Callable[..., Any],
    spec: Spec,
    seconds: Fraction,
    notes: Notepad,
    sources: list[int] | None,
) -> SoundTarget | None:
    """Plan the sound, or None where neither the spec nor the master wants any.

    Args:
        master: facts of what is delivered of the master (`programme.of`).
        settle: gives the settled value of a property, with a default.
        spec: what is asked.
        seconds: length of the picture, which the sound is made to match.
        notes: takes steps and cautions.
        sources: the master's tracks that are delivered; None where several could be and nobody
        chose.

    Raises:
        Impossible: the codec, rate or layout cannot be made.
    """
    tracks = int(master.value("sound.tracks") or 0)
    wants = any(r.property.startswith("sound.") and r.severity == "must" for r in spec.requirements)
    count = settle("sound.tracks", 1 if (tracks or wants) else 0)
    if not tracks and spec.allows_silence:
        # Either way meets the spec: it says itself what this house does.
        count = 0 if spec.coding.without_sound == "no track" else max(1, count)
    if count == 0:
        if tracks:
            notes.step("Sound left out", "The spec wants no sound.", "sound.tracks")
        return None
    codec_name = str(settle("sound.codec", formats.USUAL_SOUND[0]))
    if codec_name not in formats.made_sound():
        raise Impossible(
            f"Sound in '{codec_name}' cannot be made here.",
            f"It can be one of {', '.join(formats.made_sound())}.",
        )
    wrapper = str(settle("file.wrapper", formats.USUAL_WRAPPER))
    if wrapper not in (formats.carried_in(formats.SOUND[codec_name]) or ()):
        codec_name = _that_fits(codec_name, wrapper, spec, notes)
    codec = formats.SOUND[codec_name]
    able = codec.made
    assert able is not None
    have_rate, have_layout = (
        master.value("sound.sample_rate"),
        str(master.value("sound.layout") or "stereo"),
    )
    rate = int(settle("sound.sample_rate", 48000))
    if rate not in able.sample_rates:
        raise Impossible(
            f"{codec.label} has no sample rate of {rate} Hz.",
            f"It can be {', '.join(str(r) for r in sorted(able.sample_rates))} Hz. Was a bit "
            f"rate meant?",
        )
    channels = settle("sound.channels", loudspeakers.count(have_layout) or 2)
    layout = str(settle("sound.layout", loudspeakers.USUAL.get(int(channels), "stereo")))
    if loudspeakers.count(layout) not in able.channels:
        raise Impossible(
            f"{codec.label} cannot carry {layout}.", "Ask for a layout the codec carries."
        )
    bit_rate = settle("sound.bit_rate", able.usual_rate) if able.usual_rate else None
    gains: tuple[tuple[Fraction, ...], ...] = ()
    if tracks:
        gains = _gains(master, layout, notes)
    else:
        notes.step(
            "Silence added", "The master has no sound and the spec wants a track.", "sound.tracks"
        )
        notes.caution(
            "sound.tracks",
            "The sound is silence.",
            "The master has no sound; a silent track is made as long as the picture.",
            f"{float(seconds):.1f} s",
            "Hand in the sound if there should be some.",
        )
    if tracks > 1:
        _say_tracks(master, sources, tracks, notes)
    if tracks and have_rate and have_rate != rate:
        notes.step(f"{have_rate} to {rate} Hz", "The recipient's sample rate.", "sound.sample_rate")
    difference = master.value("sound.length_difference")
    if difference is not None and abs(difference) > Fraction(1, 25):
        notes.step(
            "Sound brought to the picture's length",
            "The recipient wants both to end together.",
            "sound.length_difference",
        )
        notes.caution(
            "sound.length_difference",
            "Sound and picture of the master differ in length.",
            "The end of the sound is cut, or silence follows it.",
            f"{float(difference):+.3f} s",
            "Listen to the last seconds of the finished file.",
        )
    named = f" {show_bit_rate(bit_rate)}" if bit_rate else ""
    notes.step(
        f"{codec.label} {layout}{named}",
        "The sound coding the spec asks for.",
        "sound.codec",
        "sound.bit_rate",
    )
    return SoundTarget(
        codec=codec_name,
        sample_rate=rate,
        layout=layout,
        bit_rate=bit_rate,
        tracks=(sources or [1]) if tracks else [],
        gains=[list(row) for row in gains],
        limited=any(sum(row) > 1 for row in gains),
    )


def _that_fits(codec: str, wrapper: str, spec: Spec, notes: Notepad) -> str:
    """Take another of the sound codecs that the spec allows where the first one has no place in the
    wrapper.
    """
    asked = list(spec.on("sound.codec"))
    others = (
        [str(v) for r in asked if r.rule.operator == "one_of" for v in limits(r)]
        if asked
        else list(formats.USUAL_SOUND)
    )
    made = formats.made_sound()
    fitting = [o for o in others if o in made and wrapper in (formats.carried_in(made[o]) or ())]
    label, into = formats.label(codec), formats.label(wrapper)
    if not fitting:
        raise Impossible(
            f"{label} does not go into {into}.", "Ask for a sound codec that the wrapper carries."
        )
    notes.caution(
        "sound.codec",
        f"{label} does not go into {into}.",
        "A player would find no sound there.",
        f"{formats.label(fitting[0])} is taken",
        "Nothing to do if the recipient takes either.",
    )
    return fitting[0]


def _say_tracks(master: Facts, sources: list[int] | None, tracks: int, notes: Notepad) -> None:
    """Say which of the master's tracks go out, or ask."""
    if sources is None:
        offered = programme.options(master)
        notes.caution(
            "sound.tracks",
            f"{len(programme.carrying(master))} of the master's {tracks} sound tracks carry "
            f"programme: which one goes out?",
            "One track is made here; whatever is not chosen does not reach the recipient.",
            "; ".join(said for _, said in offered),
            f"Choose the tracks: {', '.join(value for value, _ in offered)}.",
            blocks=True,
        )
        return
    taken = (
        " and ".join(map(str, sources)) if len(sources) < 3 else f"{sources[0]} to {sources[-1]}"
    )
    word = "Track" if len(sources) == 1 else "Tracks"
    left = [n for n in programme.carrying(master) if n not in sources]
    notes.step(
        f"{word} {taken} of {tracks}",
        "As chosen." if left else "The others are silent, or taken too.",
        "sound.tracks",
    )
    if left:
        notes.caution(
            "sound.tracks",
            f"Of {tracks} sound tracks {taken} {'goes' if len(sources) == 1 else 'go'} out.",
            "The others carry programme too and do not reach the recipient.",
            f"left out: {', '.join(map(str, left))}",
            "Choose other tracks if these are not the ones.",
        )


def speakers_of(master: Facts) -> loudspeakers.Speakers:
    """Give the loudspeakers of a master's sound: those that a person says, the stream names, or its
    layout means.

    Raises:
        Impossible: nobody says which channel is which.
    """
    layout, count = master.fact("sound.layout"), int(master.value("sound.channels") or 0)
    said = str(master.value("sound.speakers") or "")
    known = None
    if layout.assumed is not None:
        known = loudspeakers.of_name(str(layout.assumed))
    elif said:
        known = tuple(said.split())
    elif layout.value is not None:
        known = loudspeakers.of_name(str(layout.value))
    usual = {0: "stereo", 1: "mono", 2: "stereo"}.get(count)
    if known is None and usual is not None:
        known = loudspeakers.LAYOUTS[usual]
    if known is None or (count and len(known) != count):
        raise Impossible(
            f"Nobody says which loudspeakers the {count} channels of the master are for.",
            "Say so on the master's page: correct the layout of its sound.",
        )
    return known


def _gains(master: Facts, layout: str, notes: Notepad) -> tuple[tuple[Fraction, ...], ...]:
    """Bring the master's channels to the layout, and say how."""
    have, want = speakers_of(master), loudspeakers.LAYOUTS[layout]
    mix = loudspeakers.mix(have, want)
    word = str(master.value("sound.layout") or " ".join(have))
    if mix.kind == "fold":
        notes.step(
            f"{word} folded to {layout}",
            "Centre and surrounds go to left and right at -3 dB (ITU-R BS.775)."
            if layout == "stereo"
            else "Two pairs of surrounds become one, each at -3 dB.",
            "sound.layout",
        )
        notes.caution(
            "sound.layout",
            f"Surround becomes {layout}.",
            "Peaks can add up; a limiter at -1 dBFS holds them. What has no loudspeaker of its "
            "own there is mixed in; the LFE is left out of stereo.",
            f"{len(have)} to {len(want)} channels: {' '.join(have)}",
            f"Ask for the {layout} mix if the house made one.",
        )
    if mix.kind == "double":
        notes.step(
            "Mono to both channels",
            "The recipient wants two channels; both carry the same.",
            "sound.layout",
        )
    if mix.kind == "sum":
        notes.step(
            f"{word} summed to mono",
            "The recipient wants one channel; left and right at half each.",
            "sound.layout",
        )
    return mix.gains
