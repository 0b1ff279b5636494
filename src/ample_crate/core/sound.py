"""Sound: from the master's track to the asked codec, rate and layout."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any, Literal

from . import carriage, codecs
from .errors import Impossible
from .facts import Facts
from .motion import Notepad
from .plan import SoundTarget
from .rules import limits
from .spec import Spec
from .values import show_bit_rate

Mix = Literal["keep", "fold", "double", "sum", "silence"]
# ITU-R BS.775-4 Table 2: centre and surrounds go to left and right at -3 dB; the LFE is left out.
FOLD_SHARE = 2**-0.5


def plan_sound(
    master: Facts, settle: Callable[..., Any], spec: Spec, seconds: Fraction, notes: Notepad
) -> SoundTarget | None:
    """Plan the sound, or None where neither the spec nor the master wants any.

    Args:
        master: facts of the master.
        settle: gives the settled value of a property, with a default.
        spec: what is asked.
        seconds: length of the picture, which the sound is made to match.
        notes: takes steps and cautions.

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
    codec_name = str(settle("sound.codec", "aac"))
    if codec_name not in codecs.SOUND:
        raise Impossible(
            f"Sound in '{codec_name}' cannot be made here.", f"It can be one of {', '.join(codecs.SOUND)}."
        )
    wrapper = str(settle("file.wrapper", "mp4"))
    if wrapper not in carriage.SOUND[codec_name].wrappers:
        codec_name = _that_fits(codec_name, wrapper, spec, notes)
    codec = codecs.SOUND[codec_name]
    have_rate, have_layout = master.value("sound.sample_rate"), str(master.value("sound.layout") or "stereo")
    rate = int(settle("sound.sample_rate", 48000))
    if rate not in codec.sample_rates:
        raise Impossible(
            f"{codec.label} has no sample rate of {rate} Hz.",
            f"It can be {', '.join(str(r) for r in sorted(codec.sample_rates))} Hz. Was a bit rate meant?",
        )
    channels = settle("sound.channels", codecs.LAYOUT_CHANNELS.get(have_layout, 2))
    layout = str(settle("sound.layout", codecs.CHANNEL_LAYOUT.get(int(channels), "stereo")))
    if codecs.LAYOUT_CHANNELS.get(layout) not in codec.channels:
        raise Impossible(f"{codec.label} cannot carry {layout}.", "Ask for a layout the codec carries.")
    bit_rate = settle("sound.bit_rate", codec.usual_rate) if codec.usual_rate else None
    mix = _mix(have_layout, layout, notes) if tracks else "silence"
    if mix == "silence":
        notes.step("Silence added", "The master has no sound and the spec wants a track.", "sound.tracks")
        notes.caution(
            "sound.tracks", "The sound is silence.", "The master has no sound; a silent track is made as long as the picture.",
            f"{float(seconds):.1f} s", "Hand in the sound if there should be some.",
        )  # fmt: skip
    if tracks > 1:
        notes.caution(
            "sound.tracks", f"Only the first of {tracks} sound tracks is used.", "The others do not reach the recipient.",
            f"{tracks} tracks", "Hand in a master whose first track is the one to deliver.",
        )  # fmt: skip
    if tracks and have_rate and have_rate != rate:
        notes.step(f"{have_rate} to {rate} Hz", "The recipient's sample rate.", "sound.sample_rate")
    difference = master.value("sound.length_difference")
    if difference is not None and abs(difference) > Fraction(1, 25):
        notes.step("Sound brought to the picture's length", "The recipient wants both to end together.", "sound.length_difference")
        notes.caution(
            "sound.length_difference", "Sound and picture of the master differ in length.",
            "The end of the sound is cut, or silence follows it.", f"{float(difference):+.3f} s",
            "Listen to the last seconds of the finished file.",
        )  # fmt: skip
    named = f" {show_bit_rate(bit_rate)}" if bit_rate else ""
    notes.step(f"{codec.label} {layout}{named}", "The sound coding the spec asks for.", "sound.codec", "sound.bit_rate")
    return SoundTarget(
        codec=codec_name, sample_rate=rate, layout=layout, bit_rate=bit_rate, source_layout=have_layout, mix=mix,
        relabel=master.fact("sound.layout").assumed is not None,
    )


def _that_fits(codec: str, wrapper: str, spec: Spec, notes: Notepad) -> str:
    """Take another of the sound codecs that the spec allows where the first one has no place in the wrapper."""
    others = [str(v) for r in spec.on("sound.codec") if r.rule.operator == "one_of" for v in limits(r)]
    fitting = [o for o in others if o in codecs.SOUND and wrapper in carriage.SOUND[o].wrappers]
    label, into = codecs.SOUND[codec].label, codecs.WRAPPER_LABELS.get(wrapper, wrapper)
    if not fitting:
        raise Impossible(f"{label} does not go into {into}.", "Ask for a sound codec that the wrapper carries.")
    notes.caution(
        "sound.codec", f"{label} does not go into {into}.", "A player would find no sound there.", f"{codecs.SOUND[fitting[0]].label} is taken",
        "Nothing to do if the recipient takes either.",
    )  # fmt: skip
    return fitting[0]


def _mix(have: str, want: str, notes: Notepad) -> Mix:
    if have == want or codecs.LAYOUT_CHANNELS.get(have) == codecs.LAYOUT_CHANNELS[want]:
        return "keep"
    have_count, want_count = codecs.LAYOUT_CHANNELS.get(have, 2), codecs.LAYOUT_CHANNELS[want]
    if have_count > 2 and want_count == 2:
        notes.step(f"{have} folded to stereo", "Centre and surrounds go to left and right at -3 dB (ITU-R BS.775).", "sound.layout")
        notes.caution(
            "sound.layout", "Surround becomes stereo.", "Peaks can add up; a limiter at -1 dBFS holds them. The LFE is left out.",
            f"{have_count} to 2 channels", "Ask for the stereo mix if the house made one.",
        )  # fmt: skip
        return "fold"
    if have_count == 1 and want_count == 2:
        notes.step("Mono to both channels", "The recipient wants two channels; both carry the same.", "sound.layout")
        return "double"
    if want_count == 1:
        notes.step(f"{have} summed to mono", "The recipient wants one channel; left and right at half each.", "sound.layout")
        return "sum"
    raise Impossible(f"{want} cannot be made from {have}.", "Hand in the mix in the layout asked for.")
