"""Sound: from the master's tracks to the asked codec, rate and layout."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from .. import formats
from ..errors import Impossible
from ..facts import Facts
from ..facts.properties import track_key
from ..specs.rules import test
from ..units import loudspeakers
from ..units.values import show_bit_rate
from . import beside, matrix
from .encoding import RatedSound
from .loudness import named, one_by_one, plan_loudness, too_quiet
from .notes import NOTHING, Notes, caution, in_all, step
from .request import Request
from .sound_coding import SoundCoding, fewer_bits, plan_sound_codings
from .sound_steps import Dither, Faster, Fit, Limit, Mix, Resample, SoundFormat, SoundStep
from .streams import AnySound, CopiedSound, MadeSound
from .tracks import (
    Group,
    asked,
    channels_of,
    delivered,
    each_its_own,
    going,
    of_layout,
    picked,
    speakers_of,
    spread,
    tracks_taken,
    which,
)

DITHERED = 16  # bits; what is rounded to more is under every noise (common practice)


@dataclass(frozen=True)
class Sound:
    """The sound tracks to make."""

    streams: tuple[AnySound, ...] = ()
    notes: Notes = NOTHING


def plan_sound(
    request: Request,
    wrapper: str,
    seconds: Fraction,
    copied: tuple[CopiedSound, ...] | None = None,
) -> Sound:
    """Plan the sound; there is none where neither the spec nor the master wants any.

    Args:
        request: what is planned.
        wrapper: what the sound goes into.
        seconds: length of the picture, which the sound is made to match.
        copied: tracks that go over as they are; None where they are made.

    Raises:
        Impossible: the codec, rate or layout cannot be made.
    """
    tracks = int(request.master.value("sound.tracks") or 0)
    count = count_tracks(request)
    place = formats.WRAPPERS[wrapper]
    if count and place.one_track:
        count = 1
    if tracks and not place.sound:
        why = f"The wrapper ({place.label}) has no place for sound."
        return Sound(notes=step("Sound left out", why, "sound.tracks"))
    count = count if place.sound else 0
    if count == 0:
        left_out = step("Sound left out", "The spec wants no sound.", "sound.tracks")
        return Sound(notes=left_out if tracks else NOTHING)
    taken = beside.said(request.laying)
    if copied is not None:
        return Sound(copied, taken + tracks_taken(request, tracks) if count < tracks else taken)
    codings = plan_sound_codings(request, wrapper, count)
    coding = codings[0]
    if not tracks:
        made, notes = _silence(request, codings, seconds)
        notes += too_quiet(request)
    elif count == 1 and not place.one_track:
        made, notes = _from_tracks(request, coding, tracks, seconds)
    elif request.values.mix:
        raise Impossible(
            "A mix is set, and channels are dealt out one by one here.",
            "Take the mix back, or have one track made where the wrapper takes any layout.",
        )
    elif any(one.layout != coding.layout for one in codings):
        made, notes = _side_by_side(request, codings, seconds)
    else:
        made, notes = _several(request, codings, wrapper, seconds)
    said = in_all(_length(request.master), _coded(codings))
    fewer = fewer_bits(request, coding.encoding) if tracks else NOTHING
    return Sound(made, in_all(taken, coding.notes, notes, said, fewer))


def _coded(codings: Sequence[SoundCoding]) -> Notes:
    said = Counter(_in_words(coding) for coding in codings)
    return step(
        ", ".join(f"{count} x {words}" if count > 1 else words for words, count in said.items()),
        "The sound coding the spec asks for.",
        "sound.codec",
        "sound.bit_rate",
    )


def _in_words(coding: SoundCoding) -> str:
    named = coding.encoding
    rate = f" {show_bit_rate(named.bit_rate)}" if isinstance(named, RatedSound) else ""
    return f"{coding.codec.label} {coding.layout}{rate}"


def count_tracks(request: Request) -> int:
    """Settle how many tracks are made."""
    spec, tracks = request.spec, int(request.master.value("sound.tracks") or 0)
    # What is to be as the master's is not asked of one without sound.
    wants = any(
        r.property.startswith("sound.") and r.severity == "must" and r.rule.same_as is None
        for r in spec.requirements
    )
    usual = max(1, asked(request) if tracks else 0) if tracks or wants else 0
    count = int(request.values.get("sound.tracks", usual))
    if tracks or not spec.allows_silence or "sound.tracks" in request.values.chosen:
        return count
    # Where either way meets the spec, it says itself what this house does.
    silent = spec.coding.without_sound == "silent track"
    return int(silent and all(test(r)(1) for r in spec.on("sound.tracks") if r.when is None))


def _fit(coding: SoundCoding, seconds: Fraction) -> Fit:
    return Fit(samples=int(seconds * coding.sample_rate))


def _silent(request: Request, coding: SoundCoding, seconds: Fraction) -> MadeSound:
    channels = len(loudspeakers.LAYOUTS[coding.layout])
    source = SoundFormat(sample_rate=coding.sample_rate, layout=coding.layout, channels=channels)
    steps = (_fit(coding, seconds),)
    made = MadeSound(tracks=(), source=source, steps=steps, encoding=coding.encoding)
    return named(request, made)


def _silence(
    request: Request, codings: Sequence[SoundCoding], seconds: Fraction
) -> tuple[tuple[MadeSound, ...], Notes]:
    count = len(codings)
    made = tuple(_silent(request, coding, seconds) for coding in codings)
    tracks = "a track" if count == 1 else f"{count} tracks"
    said = step(
        "Silence added", f"The master has no sound and the spec wants {tracks}.", "sound.tracks"
    ) + caution(
        "sound.tracks",
        "The sound is silence.",
        f"The master has no sound; {tracks} of silence as long as the picture are made."
        if count > 1
        else "The master has no sound; a silent track is made as long as the picture.",
        f"{float(seconds):.1f} s",
        "Hand in the sound if there should be some.",
    )
    return made, said


def _made(
    request: Request, coding: SoundCoding, group: Group, seconds: Fraction, alone: bool
) -> tuple[MadeSound, Notes]:
    """Make a track of what it is made of; `alone` is the only one that is made."""
    if group.mix is None:
        return _silent(request, coding, seconds), NOTHING
    # What goes out alone has the first track's place.
    master = request.master if alone else request.all_sound
    track = 1 if alone else (group.tracks or (1,))[0]
    mixing = Mix(layout=coding.layout, gains=group.mix.gains)
    rate = int(master.value(track_key("sound.sample_rate", track)) or coding.sample_rate)
    every, first = request.all_sound, (group.tracks or (1,))[0]
    held = master if len(group.tracks) > 1 else every
    layout = str(held.value(track_key("sound.layout", track if held is master else first)) or "")
    source = SoundFormat(sample_rate=rate, layout=layout, channels=group.channels)
    brought, notes = None, NOTHING
    if alone or coding.layout != "mono":
        brought, notes = plan_loudness(request, mixing, group.tracks, coding.encoding)
    brings = Resample(rate=coding.sample_rate)
    steps: list[SoundStep] = [brings, *_faster(request, coding.sample_rate), mixing]
    if brought is not None:
        steps.append(brought)
    elif mixing.adds_up:
        steps.append(Limit())
    steps += _dither(master, coding, steps, track)
    steps.append(_fit(coding, seconds))
    made = MadeSound(
        tracks=group.tracks, source=source, steps=tuple(steps), encoding=coding.encoding
    )
    return named(request, made), notes


def _faster(request: Request, rate: int) -> list[SoundStep]:
    """Take the sound as fast as its picture; that of another file is taken as it is."""
    speed = request.speed
    if speed.times == 1 or request.sound != "own":
        return []
    return [Faster(times=speed.times, pitch=speed.pitch == "kept", rate=rate)]


def _dither(
    master: Facts, coding: SoundCoding, steps: Sequence[SoundStep], track: int
) -> list[SoundStep]:
    """Dither to 16 bits what has more of them, in the master or by what is done to it."""
    depth = coding.encoding.depth
    have = master.value(track_key("sound.bit_depth", track))
    rate = master.value(track_key("sound.sample_rate", track))
    mix = next(s for s in steps if isinstance(s, Mix))
    alike = have == depth and rate == coding.sample_rate and mix.keeps and len(steps) == 2
    return [Dither(bits=DITHERED)] if depth == DITHERED and not alike else []


def _from_tracks(
    request: Request, coding: SoundCoding, tracks: int, seconds: Fraction
) -> tuple[tuple[MadeSound, ...], Notes]:
    master = request.master
    have, want = speakers_of(master), loudspeakers.LAYOUTS[coding.layout]
    chosen = request.values.mix
    mix = matrix.mixed(chosen, have, want) if chosen else loudspeakers.mix(have, want)
    if chosen and request.channels is not None:
        raise Impossible("Channels were picked, and a mix is set.", "Take back one of the two.")
    group = Group(tuple(request.tracks or (1,)), len(have), mix)
    if request.channels is not None:
        group = picked(request.all_sound, group, request.channels)
    notes = in_all(
        _picked(request),
        matrix.said(chosen, have, want) if chosen else _mixed(master, have, mix, coding.layout),
        tracks_taken(request, tracks) if tracks > 1 else NOTHING,
        _resampled(master, coding),
    )
    made, said = _made(request, coding, group, seconds, alone=True)
    return (made,), notes + said


def _several(
    request: Request, codings: Sequence[SoundCoding], wrapper: str, seconds: Fraction
) -> tuple[tuple[MadeSound, ...], Notes]:
    """Spread the master's sound over several tracks."""
    master, coding, count = request.all_sound, codings[0], len(codings)
    tracks = delivered(master, request.tracks)
    places = formats.WRAPPERS[wrapper].one_track
    groups = spread(master, tracks, count, coding.layout, bool(places), request.channels)
    silent = [str(n) for n, group in enumerate(groups, 1) if group.mix is None]
    chosen = request.channels
    taken = len(chosen or channels_of(master, tracks))
    said = _picked(request) + _dealt_out(taken, count, coding.layout, places)
    if silent:
        said += caution(
            "sound.tracks",
            f"{'Track' if len(silent) == 1 else 'Tracks'} {', '.join(silent)} will be silent.",
            "The master has no more channels than fill the others.",
            f"{taken} channels for {count} tracks of {coding.layout}",
            "Nothing to do if the recipient wants them so.",
        )
    pairs = zip(codings, groups, strict=True)
    made = [_made(request, one, group, seconds, alone=False) for one, group in pairs]
    brought = next((notes for _, notes in made if notes != NOTHING), NOTHING)
    if count > 1 and coding.layout == "mono":
        brought = one_by_one(request)
    notes = in_all(said, _mixes(master, groups, coding.layout), _resampled(master, coding), brought)
    return tuple(track for track, _ in made), notes


def _side_by_side(
    request: Request, codings: Sequence[SoundCoding], seconds: Fraction
) -> tuple[tuple[MadeSound, ...], Notes]:
    """Make tracks of several layouts, each of what fits it best."""
    master = request.all_sound
    tracks, layouts = delivered(master, request.tracks), [one.layout for one in codings]
    groups = each_its_own(master, tracks, layouts)
    made = [
        _made(request, coding, group, seconds, alone=False)
        for coding, group in zip(codings, groups, strict=True)
    ]
    said = step(
        f"{' and '.join(dict.fromkeys(layouts))} side by side",
        "As each track is asked for; without a mix of its own it is folded (ITU-R BS.775).",
        "sound.layout",
        "sound.tracks",
    )
    brought = next((notes for _, notes in made if notes != NOTHING), NOTHING)
    said += _of_several(request, groups, layouts[0])
    return tuple(track for track, _ in made), in_all(said, _resampled(master, codings[0]), brought)


def _of_several(request: Request, groups: Sequence[Group], layout: str) -> Notes:
    """Say which of the master's tracks are taken, or ask where several could be the first."""
    master, count = request.all_sound, int(request.all_sound.value("sound.tracks"))
    if count < 2:
        return NOTHING
    if request.tracks is None and len(of_layout(master, delivered(master, None), layout)) != 1:
        return which(master, count, all_fit=False)
    return going(master, count, sorted({track for one in groups for track in one.tracks}))


def _dealt_out(taken: int, count: int, layout: str, places: frozenset[int]) -> Notes:
    what = f"{taken} channels into {count} tracks of {layout}"
    how = "Track by track where there are as many; else channel by channel, in their order."
    if places:
        what = f"{taken} channels into one track"
        how = f"Channel by channel: the file has one sound track, of {_or(places)} channels."
    return step(what, how, "sound.tracks", "sound.channels")


def _or(counts: frozenset[int]) -> str:
    return " or ".join(map(str, sorted(counts)))


def _mixes(master: Facts, groups: Sequence[Group], layout: str) -> Notes:
    """Say once of each way in which tracks are mixed."""
    ways = {g.mix.kind: (g.tracks[0], g.mix) for g in reversed(groups) if g.mix is not None}
    notes = NOTHING
    for track, mix in ways.values():
        notes += _mixed(master, speakers_of(master, track), mix, layout, track)
    return notes


def _picked(request: Request) -> Notes:
    if request.channels is None:
        return NOTHING
    numbers = ", ".join(map(str, request.channels))
    return step(f"Channels {numbers} of the track", "As chosen.", "sound.channels")


def _resampled(master: Facts, coding: SoundCoding) -> Notes:
    rate = int(master.value("sound.sample_rate") or coding.sample_rate)
    if rate == coding.sample_rate:
        return NOTHING
    return step(
        f"{rate} to {coding.sample_rate} Hz", "The recipient's sample rate.", "sound.sample_rate"
    )


def _length(master: Facts) -> Notes:
    difference = master.value("sound.length_difference")
    if difference is None or abs(difference) <= Fraction(1, 25):
        return NOTHING
    return step(
        "Sound brought to the picture's length",
        "The recipient wants both to end together.",
        "sound.length_difference",
    ) + caution(
        "sound.length_difference",
        "Sound and picture of the master differ in length.",
        "The end of the sound is cut, or silence follows it.",
        f"{float(difference):+.3f} s",
        "Listen to the last seconds of the finished file.",
    )


def _mixed(
    master: Facts,
    have: loudspeakers.Speakers,
    mix: loudspeakers.Mix,
    layout: str,
    track: int = 1,
) -> Notes:
    """Say how the channels of a master's track are brought to the layout."""
    word = str(master.value(track_key("sound.layout", track)) or " ".join(have))
    if mix.kind == "fold":
        return _folded(word, have, layout)
    if mix.kind == "double":
        return step(
            "Mono to both channels",
            "The recipient wants two channels; both carry the same.",
            "sound.layout",
        )
    if mix.kind == "sum":
        return step(
            f"{word} summed to mono",
            "The recipient wants one channel; left and right at half each.",
            "sound.layout",
        )
    return NOTHING


def _folded(word: str, have: loudspeakers.Speakers, layout: str) -> Notes:
    return step(
        f"{word} folded to {layout}",
        "Centre and surrounds go to left and right at -3 dB (ITU-R BS.775)."
        if layout == "stereo"
        else "Two pairs of surrounds become one, each at -3 dB.",
        "sound.layout",
    ) + caution(
        "sound.layout",
        f"Surround becomes {layout}.",
        "Peaks can add up; a limiter at -1 dBFS holds them. What has no loudspeaker of its "
        "own there is mixed in; the LFE is left out of stereo.",
        f"{len(have)} to {len(loudspeakers.LAYOUTS[layout])} channels: {' '.join(have)}",
        f"Ask for the {layout} mix if the house made one.",
    )
