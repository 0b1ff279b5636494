"""Loudness: whether a track is brought to what a spec asks, and what that takes.

A track is measured as it is mixed, then brought to its target by one gain, with its true peaks held
(EBU R 128, ITU-R BS.1770). Where the loudest three seconds are limited too, as for commercials (EBU
R 128 s1), those are turned down.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..facts import Facts
from ..facts.properties import lookup, track_key
from ..specs.requirement import Requirement
from ..specs.rules import bounds, limits, test
from ..units.values import fraction
from .encoding import RatedSound, SoundEncoding
from .notes import NOTHING, Notes, caution, in_all, step
from .request import Request
from .sound_steps import Mix, Normalise
from .streams import MadeSound

LOUDNESS, PEAK, SHORT = "sound.loudness", "sound.true_peak", "sound.max_short_term"
DIALOGUE = "sound.dialogue_level"
QUIETEST, LOUDEST = -31, -1  # LUFS that a dialogue level can be (ATSC A/52)
LEVELS = (LOUDNESS, PEAK, SHORT)
USUAL_PEAK = Fraction(-1)  # dBTP; EBU R 128
QUIET = Fraction(-60)  # LUFS; what is quieter is no programme (common practice)
MUCH = Fraction(6)  # dB of gain from which noise is worth a word (common practice)
CODED = Fraction(1, 2)  # dB by which coding that is not lossless raises peaks (observed here)
INSIDE = Fraction(3, 10)  # LU by which a target lies within bounds


@dataclass(frozen=True)
class Heard:
    """What is known of a track as it is mixed; None where only measuring tells."""

    loudness: Fraction | None = None
    peak: Fraction | None = None
    short_term: Fraction | None = None


SILENCE = Heard(loudness=Fraction(-70))  # which the meter says of it


@dataclass(frozen=True)
class Asked:
    """What is asked of a track: loudness, true peak, and the loudest three seconds."""

    loudness: tuple[Requirement, ...]
    peak: Fraction | None
    short_term: Fraction | None


def plan_loudness(
    request: Request, mix: Mix, tracks: tuple[int, ...], encoding: SoundEncoding
) -> tuple[Normalise | None, Notes]:
    """Settle how a track is brought to the loudness that is asked, if it has to be.

    Args:
        request: what is planned.
        mix: what is made of the master's channels.
        tracks: of the master that it is made of.
        encoding: how it is coded: a coder that is not lossless makes other peaks.
    """
    asked = _asked(request)
    heard = heard_of(request.all_sound, mix, tracks)
    if not (asked.loudness or asked.peak is not None or asked.short_term is not None):
        return None, NOTHING
    if request.values.loudness == "untouched":
        return None, _untouched(asked, heard)
    if heard.loudness is not None and heard.loudness < QUIET:
        return None, NOTHING
    target = _target(asked.loudness, heard.loudness)
    lossless = encoding.depth is not None
    if _met(asked, heard, target, lossless):
        return None, NOTHING
    brought = Normalise(
        target=target,
        peak=USUAL_PEAK if asked.peak is None else asked.peak,
        short_term=asked.short_term,
        lossless=lossless,
        line_up=_line_up(request, mix, tracks),
    )
    return brought, in_all(_step(brought, heard), _cautions(brought, heard))


def one_by_one(request: Request) -> Notes:
    """Say that mono tracks which belong together are left as they are."""
    asked = _asked(request)
    if not asked.loudness or request.values.loudness == "untouched":
        return NOTHING
    return caution(
        LOUDNESS,
        "Mono tracks are not brought to a loudness.",
        "One by one they would lose their balance, and nobody says which belong together.",
        "",
        "Ask for a mix at the target, or for tracks of stereo if the recipient takes them.",
    )


def too_quiet(request: Request) -> Notes:
    """Say that silence cannot have the loudness that must be."""
    must = [r for r in _asked(request).loudness if r.severity == "must"]
    assert SILENCE.loudness is not None
    if all(test(rule)(SILENCE.loudness) for rule in must):
        return NOTHING
    return caution(
        LOUDNESS,
        "The spec asks for a loudness, and the master has no sound.",
        "Silence has none, so the file would be sent back.",
        "",
        "Hand in a master with its sound, or ask the recipient about silent films.",
        blocks=True,
    )


def heard_of(master: Facts, mix: Mix, tracks: tuple[int, ...]) -> Heard:
    """Give what is known of a track: what was measured of the master's, if it goes out as it is."""
    if len(tracks) != 1 or not mix.keeps:
        return Heard()
    keys = (track_key(key, tracks[0]) for key in (LOUDNESS, PEAK, SHORT))
    return Heard(*(master.fraction(key) for key in keys))


def _line_up(request: Request, mix: Mix, tracks: tuple[int, ...]) -> Fraction:
    """Give the seconds of tone that go with bars at the start of a master's own track."""
    with_bars = request.sound == "own" and request.master.fraction("motion.bars_before")
    if not with_bars or len(tracks) != 1 or not mix.keeps:
        return Fraction(0)
    return request.all_sound.fraction(track_key("sound.tone_before", tracks[0])) or Fraction(0)


def expected(sound: MadeSound, master: Facts) -> Heard:
    """Give what a made track is expected to come to; its peaks are the most that they come to."""
    brought = next((s for s in sound.steps if isinstance(s, Normalise)), None)
    mix = next((s for s in sound.steps if isinstance(s, Mix)), None)
    if mix is None:
        return SILENCE if not sound.tracks else Heard()
    heard = heard_of(master, mix, sound.tracks)
    if brought is None:
        exact = sound.encoding.depth is not None
        return heard if exact else Heard(loudness=heard.loudness)
    gain = None
    if brought.target is not None and heard.loudness is not None:
        gain = brought.target - heard.loudness
    short = None if gain is None or heard.short_term is None else heard.short_term + gain
    if brought.short_term is not None:
        short = brought.short_term if short is None else min(short, brought.short_term)
    return Heard(brought.target, brought.peak, short)


def named(request: Request, sound: MadeSound) -> MadeSound:
    """Have a track carry the level of its dialogue: as asked, else that of the whole programme, as
    is usual where speech was not measured by itself (common practice); where even that is not
    known, the level at which no player turns anything down.
    """
    if not isinstance(sound.encoding, RatedSound) or not sound.row.dialogue:
        return sound
    heard = expected(sound, request.all_sound).loudness
    usual = QUIETEST if heard is None else min(LOUDEST, max(QUIETEST, round(heard)))
    level = round(request.values.get(DIALOGUE, Fraction(usual)))
    encoding = sound.encoding.model_copy(update={"dialogue": level})
    return sound.model_copy(update={"encoding": encoding})


def _asked(request: Request) -> Asked:
    rules = [r for key in (LOUDNESS, f"{LOUDNESS}@1") for r in request.spec.on(key)]
    mine = tuple(r for r in rules if r.when is None)
    return Asked(mine, _most(request, PEAK), _most(request, SHORT))


def _most(request: Request, key: str) -> Fraction | None:
    """Give the most that a figure may be, by rules that must or should be met."""
    rules = [r for name in (key, f"{key}@1") for r in request.spec.on(name) if r.when is None]
    tops = [found[1] for r in rules if (found := bounds(r)) is not None]
    return min((top for top in tops if top is not None), default=None)


def _target(rules: tuple[Requirement, ...], heard: Fraction | None) -> Fraction | None:
    """Give the loudness to bring a track to: the figure that is asked, or the nearest within the
    bounds; None where it stays.
    """
    target = heard
    for rule in rules:
        figure = _figure(rule)
        if figure is not None:
            target = figure
        elif target is not None and not test(rule)(target):
            target = _within(rule, target)
    return target


def _figure(rule: Requirement) -> Fraction | None:
    return fraction(limits(rule)[0]) if rule.rule.operator == "is" else None


def _within(rule: Requirement, heard: Fraction) -> Fraction:
    found = bounds(rule)
    assert found is not None
    low, high = found
    inside = INSIDE if low is None or high is None else min(INSIDE, (high - low) / 2)
    if high is not None and heard > high:
        return high - inside
    return heard if low is None else low + inside


def _met(asked: Asked, heard: Heard, target: Fraction | None, lossless: bool) -> bool:
    """Say whether a track meets what is asked as it is mixed, as far as anything is known."""
    if heard == Heard():
        return target is None and asked.peak is None and asked.short_term is None
    loudness, peak, short = heard.loudness, heard.peak, heard.short_term
    if loudness is not None and not all(test(rule)(loudness) for rule in asked.loudness):
        return False
    room = Fraction(0) if lossless else CODED
    return _under(peak, asked.peak, room) and _under(short, asked.short_term)


def _under(value: Fraction | None, most: Fraction | None, room: Fraction = Fraction(0)) -> bool:
    return value is None or most is None or value <= most - room


def _step(brought: Normalise, heard: Heard) -> Notes:
    held = f"true peaks are held under {_shown(PEAK, brought.peak)}"
    if brought.short_term is not None:
        held += f" and the loudest 3 s under {_shown(SHORT, brought.short_term)}"
    if brought.target is None:
        return step("Peaks held", f"Measured first; {held}.", PEAK, SHORT)
    target = _shown(LOUDNESS, brought.target)
    if heard.loudness is None:
        why = f"The mix is measured first, then brought there by one gain; {held} (EBU R 128)."
        return step(f"Loudness brought to {target}", why, LOUDNESS, PEAK, SHORT)
    gain = brought.target - heard.loudness
    why = f"One gain of {_signed(gain)} dB over the whole; {held} (EBU R 128)."
    title = f"Loudness from {_shown(LOUDNESS, heard.loudness)} to {target}"
    return step(title, why, LOUDNESS, PEAK, SHORT)


def _cautions(brought: Normalise, heard: Heard) -> Notes:
    """Say what a gain that is known will do."""
    if heard.loudness is None:
        return NOTHING
    gain = Fraction(0) if brought.target is None else brought.target - heard.loudness
    notes = NOTHING
    if heard.peak is not None and heard.peak + gain > brought.peak:
        notes += caution(
            PEAK,
            f"Peaks would reach {_shown(PEAK, heard.peak + gain)}: a limiter holds them.",
            "The loudest moments are turned down for some thousandths of a second, and can lose "
            "their edge.",
            f"{_signed(gain)} dB, and at most {_shown(PEAK, brought.peak)}",
            "Listen to its loudest moments, or ask for a mix with lower peaks.",
        )
    most = brought.short_term
    if most is not None and heard.short_term is not None and heard.short_term + gain > most:
        notes += caution(
            SHORT,
            f"The loudest 3 s would have {_shown(SHORT, heard.short_term + gain)}: they are turned "
            f"down.",
            "What is loud and what is quiet come nearer to each other than they were mixed.",
            f"at most {_shown(SHORT, most)}",
            "Listen to its loudest seconds, or ask for a more even mix.",
        )
    if gain > MUCH:
        notes += caution(
            LOUDNESS,
            f"The sound is raised by {float(gain):.1f} dB.",
            "Noise rises with it.",
            f"{_shown(LOUDNESS, heard.loudness)} in the master",
            "Listen to its quiet passages, or ask whether a louder mix was made.",
        )
    return notes


def _untouched(asked: Asked, heard: Heard) -> Notes:
    if heard.loudness is None or all(test(rule)(heard.loudness) for rule in asked.loudness):
        return NOTHING
    return caution(
        LOUDNESS,
        f"The mix goes out at {_shown(LOUDNESS, heard.loudness)}, untouched.",
        "The spec asks for another loudness.",
        f"{_shown(LOUDNESS, heard.loudness)} in the master",
        "Have the loudness brought to the target, if the recipient insists.",
    )


def _shown(key: str, value: Fraction) -> str:
    return lookup(key).kind.show(value)


def _signed(gain: Fraction) -> str:
    return f"{float(gain):+.1f}".replace("-", "\N{MINUS SIGN}")
