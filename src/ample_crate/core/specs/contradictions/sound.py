"""Checks on sound: rates confused with each other, what its codec cannot do, arrangement,
loudness.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ... import formats
from ...facts.properties import split_track
from ...formats.codec import SoundCodec
from ...units import loudspeakers
from ...units.values import show_bit_rate
from .view import Contradiction, View

# Figures of the one that are typed for the other: usual bit rates in kb/s, usual sample rates in
# Hz.
BIT_RATES = {64, 96, 128, 160, 192, 224, 256, 320, 384, 448, 512, 640}
SAMPLE_RATES = {22_050, 32_000, 44_100, 48_000, 96_000}


def _each_track(view: View) -> Iterator[Contradiction]:
    """Run all checks on sound, for each track that is asked about by itself and for all
    together.
    """
    tracks = sorted(
        {
            split_track(r.property)[1]
            for r in view.requirements
            if r.property.startswith("sound.") and "@" in r.property
        }
    )
    yield from _count(view, tracks)
    for suffix in ["", *(f"@{n}" for n in tracks)]:
        yield from _codec(view, suffix)
    yield from _loudness(view)


def _count(view: View, tracks: list[int]) -> Iterator[Contradiction]:
    most = view.high("sound.tracks")
    asked = [
        r.property
        for r in view.requirements
        if r.property.startswith("sound.") and r.property != "sound.tracks"
    ]
    if most == 0 and asked:
        yield view.against(
            "no sound",
            "No sound is asked for, and yet its properties are.",
            "They can never be met.",
            ("sound.tracks", *dict.fromkeys(asked)),
            "Allow a sound track.",
            {"sound.tracks": {"one_of": [0, 1]}},
        )
    wrappers = view.values("file.wrapper") or []
    silent = {w.key for w in formats.WRAPPERS.values() if not w.sound}
    if wrappers and set(wrappers) <= silent and (view.low("sound.tracks") or 0) >= 1:
        yield view.against(
            "sound wrapper",
            f"{formats.label(wrappers[0])} has no place for sound.",
            "It holds the picture alone; sound comes as a file of its own.",
            ("sound.tracks", "file.wrapper"),
            "Ask for no sound track.",
            {"sound.tracks": {"is": 0}},
        )
    beyond = [n for n in tracks if most is not None and n > most > 0]
    if beyond:
        keys = [p for p in asked if split_track(p)[1] == beyond[0]]
        yield view.against(
            "tracks",
            f"Sound track {beyond[0]} is described, and at most {most} "
            f"{'is' if most == 1 else 'are'} asked for.",
            "A track that may not be there cannot be right.",
            ("sound.tracks", *keys),
            f"Ask for {max(tracks)} tracks.",
            {"sound.tracks": {"is": max(tracks)}},
        )


def _key(view: View, base: str, suffix: str) -> str:
    mine = base + suffix
    return mine if view.asks(mine) else base


@dataclass(frozen=True)
class Asked:
    """What is asked of the sound, of one track or of all.

    Attributes:
        keys: the property that counts, by its short name.
        codecs: those that are known here.
        name: what they are called.
        channels: how many are asked for, or None.
    """

    keys: dict[str, str]
    codecs: list[SoundCodec]
    name: str
    channels: int | None


def _codec(view: View, suffix: str) -> Iterator[Contradiction]:
    keys = {
        name: _key(view, f"sound.{name}", suffix)
        for name in ("codec", "sample_rate", "bit_rate", "channels", "layout", "bit_depth")
    }
    if suffix and all(key == key.split("@")[0] for key in keys.values()):
        return
    yield from _swapped(view, keys)
    layout, channels = view.only(keys["layout"]), view.only(keys["channels"])
    count = loudspeakers.count(layout) if layout else None
    if count is not None and channels is not None and channels != count:
        yield view.against(
            "channels",
            f"{layout} has {count} channels, not {channels}.",
            "Layout and number of channels say two things.",
            (keys["channels"], keys["layout"]),
            f"Ask for {count} channels, or leave the number out.",
            {keys["channels"]: None},
        )
    need = count or (int(channels) if channels is not None else None)
    named = view.values(keys["codec"])
    known = [formats.SOUND[c] for c in named or [] if _known(c)]
    if not named or len(known) < len(named):
        return
    asked = Asked(keys, known, " or ".join(c.label for c in known), need)
    yield from _rates(view, asked)
    yield from _places(view, asked)
    yield from _channels(view, asked)
    yield from _depth(view, asked)


def _known(codec: str) -> bool:
    row = formats.SOUND.get(codec)
    return row is not None and row.wrappers is not None


def _places(view: View, asked: Asked) -> Iterator[Contradiction]:
    """Hold the codec against the wrapper."""
    wrappers, key = view.values("file.wrapper") or [], asked.keys["codec"]
    places = frozenset().union(*(formats.carried_in(c) or frozenset() for c in asked.codecs))
    if wrappers and not set(wrappers) & places:
        row = formats.WRAPPERS.get(wrappers[0])
        yield view.against(
            "sound wrapper",
            f"{asked.name} does not go into {formats.label(wrappers[0])}.",
            "Sound and wrapper do not belong together.",
            (key, "file.wrapper"),
            "Ask for a sound codec that does.",
            {key: {"is": row.usual_sound if row is not None else formats.STUDIO_SOUND}},
        )
    lines = view.asks("picture.interval_lines") and (view.high("picture.interval_lines") or 0) > 0
    studio = [formats.WRAPPERS[w] for w in wrappers if w in formats.WRAPPERS]
    d10 = lines and bool(studio) and all(w.patterns for w in studio)
    if d10 and any(c.compressed for c in asked.codecs):
        yield view.against(
            "sound wrapper",
            "D-10 carries PCM only.",
            "SMPTE ST 386 gives the sound of D-10 as AES3 samples.",
            (key, "file.wrapper"),
            "Ask for PCM of 24 bit.",
            {key: {"is": formats.STUDIO_SOUND}},
        )


def _channels(view: View, asked: Asked) -> Iterator[Contradiction]:
    need, keys = asked.channels, asked.keys
    if need is not None and all(need > c.channels for c in asked.codecs):
        yield view.against(
            "channels",
            f"{asked.name} carries at most {max(c.channels for c in asked.codecs)} channels.",
            f"{need} are asked for.",
            (keys["layout"], keys["channels"], keys["codec"]),
            "Ask for stereo, or another codec.",
            {keys["layout"]: {"is": "stereo"}, keys["channels"]: None},
        )


def _depth(view: View, asked: Asked) -> Iterator[Contradiction]:
    keys = asked.keys
    depth = view.low(keys["bit_depth"])
    if depth is None:
        return
    if all(c.compressed for c in asked.codecs):
        yield view.against(
            "sound depth",
            f"A bit depth is asked of {asked.name}.",
            "Compressed sound has no bits a sample.",
            (keys["bit_depth"], keys["codec"]),
            "Leave it out.",
            {keys["bit_depth"]: None},
        )
    deepest = [c.depth for c in asked.codecs if c.depth is not None]
    if deepest and depth > max(deepest):
        plain = [c for c in formats.SOUND.values() if c.depth is not None and c.depth >= depth]
        usual = min(plain, key=lambda c: c.depth or 0, default=formats.SOUND[formats.STUDIO_SOUND])
        yield view.against(
            "sound depth",
            f"{asked.name} does not carry {depth} bits.",
            f"It carries {max(deepest)}.",
            (keys["codec"], keys["bit_depth"]),
            f"Ask for {usual.label}.",
            {keys["codec"]: {"is": usual.key}},
        )


def _swapped(view: View, keys: dict[str, str]) -> Iterator[Contradiction]:
    rate, bits = view.only(keys["sample_rate"]), view.high(keys["bit_rate"])
    if (
        rate is not None
        and int(rate) % 1000 == 0
        and int(rate) // 1000 in BIT_RATES - {96}
        and rate > 48_000
    ):
        yield view.against(
            "swapped",
            f"A sample rate of {int(rate) // 1000} kHz is asked; {int(rate) // 1000} is a usual "
            f"bit rate in kb/s.",
            "The two are easily confused.",
            (keys["sample_rate"],),
            f"Ask for 48 kHz at {int(rate) // 1000} kb/s.",
            {
                keys["sample_rate"]: {"is": "48 kHz"},
                keys["bit_rate"]: {"is": f"{int(rate) // 1000} kb/s", "tolerance": "5 %"},
            },
        )
    codecs = view.values(keys["codec"])
    compressed = bool(codecs) and all(
        c in formats.SOUND and formats.SOUND[c].compressed for c in codecs or []
    )
    if rate == 32_000 and compressed and bits is None:
        yield view.against(
            "swapped",
            "A sample rate of 32 kHz is asked, and no bit rate.",
            "32 kHz where 320 kb/s is meant is a common slip; half of the sound's band is lost.",
            (keys["sample_rate"], keys["codec"]),
            "Ask for 48 kHz at 320 kb/s, or give the bit rate too.",
            {
                keys["sample_rate"]: {"is": "48 kHz"},
                keys["bit_rate"]: {"is": "320 kb/s", "tolerance": "5 %"},
            },
        ).doubtful()
    mono = view.only(keys["channels"]) == 1 or view.only(keys["layout"]) == "mono"
    if (
        bits is not None
        and bits in SAMPLE_RATES
        and view.low(keys["bit_rate"]) in {None, bits}
        and not mono
    ):
        yield _typed(view, keys, int(bits))


def _typed(view: View, keys: dict[str, str], bits: int) -> Contradiction:
    return view.against(
        "swapped",
        f"A bit rate of {show_bit_rate(bits)} is asked; {bits} is a usual sample rate in Hz.",
        "The two are easily confused, and so thin a rate sounds poor.",
        (keys["bit_rate"],),
        f"Ask for {bits / 1000:g} kHz at 320 kb/s.",
        {
            keys["bit_rate"]: {"is": "320 kb/s", "tolerance": "5 %"},
            keys["sample_rate"]: {"is": bits},
        },
    ).doubtful()


def _rates(view: View, asked: Asked) -> Iterator[Contradiction]:
    keys, codecs = asked.keys, asked.codecs
    hertz: list[Any] = view.values(keys["sample_rate"]) or []
    allowed = frozenset().union(*(c.sample_rates or frozenset() for c in codecs))
    if hertz and all(c.sample_rates for c in codecs) and not set(hertz) & allowed:
        near = min(allowed, key=lambda r: abs(r - hertz[0]))
        yield view.against(
            "sample rate",
            f"{asked.name} has no sample rate of {hertz[0] / 1000:g} kHz.",
            f"It has {', '.join(f'{r / 1000:g}' for r in sorted(allowed))} kHz.",
            (keys["sample_rate"], keys["codec"]),
            f"Ask for {near / 1000:g} kHz.",
            {keys["sample_rate"]: {"is": near}},
        )
    low, high = view.low(keys["bit_rate"]), view.high(keys["bit_rate"])
    if low is None and high is None:
        return
    if all(not c.compressed for c in codecs):
        yield _free_rate(view, keys, asked.name)
    elif not any(_reaches(c, low, high, asked.channels, hertz) for c in codecs):
        yield _no_rate(view, asked, low, high)


def _bit_rates(codec: SoundCodec, channels: int | None, hertz: list[int]) -> tuple[int, ...]:
    """Give the bit rates of a codec: all of them, or the least and the most."""
    rates = codec.bit_rates or ()
    return rates if codec.fixed or not rates else (rates[0], codec.most(channels, hertz))


def _reaches(
    codec: SoundCodec,
    low: Fraction | None,
    high: Fraction | None,
    channels: int | None,
    hertz: list[int],
) -> bool:
    """Say whether a codec has a bit rate within bounds."""
    rates = _bit_rates(codec, channels, hertz)
    if codec.fixed:
        return any((low is None or r >= low) and (high is None or r <= high) for r in rates)
    return bool(rates) and (low is None or low <= rates[1]) and (high is None or high >= rates[0])


def _no_rate(
    view: View, asked: Asked, low: Fraction | None, high: Fraction | None
) -> Contradiction:
    keys, first = asked.keys, asked.codecs[0]
    hertz: list[Any] = view.values(keys["sample_rate"]) or []
    rates = _bit_rates(first, asked.channels, hertz)
    near = min(rates, key=lambda r: abs(float(r - (low or high or 0))))
    figures = [f"{r // 1000}" for r in rates]
    says = ", ".join(figures) if first.fixed else " to ".join(figures)
    of = "of"
    if low is not None and high is not None and low != high:
        of = f"between {show_bit_rate(int(low))} and"
    return view.against(
        "sound rate",
        f"{asked.name} has no bit rate {of} {show_bit_rate(int(high or low or 0))}.",
        f"It has {says} kb/s.",
        (keys["bit_rate"], keys["codec"]),
        f"Ask for {show_bit_rate(near)}.",
        {keys["bit_rate"]: {"is": f"{near} b/s", "tolerance": "1 %"}},
    )


def _free_rate(view: View, keys: dict[str, str], name: str) -> Contradiction:
    """Say that uncompressed sound has the rate that its samples make."""
    return view.against(
        "sound rate",
        f"A bit rate is asked of {name}.",
        "What is kept without loss has the rate that its samples make; no encoder can aim at "
        "another.",
        (keys["bit_rate"], keys["codec"]),
        "Leave it out.",
        {keys["bit_rate"]: None},
    ).doubtful()


def _loudness(view: View) -> Iterator[Contradiction]:
    least = view.low("sound.loudness")
    for key, window in (
        ("sound.max_short_term", "the loudest 3 s"),
        ("sound.max_momentary", "the loudest 400 ms"),
    ):
        most = view.high(key)
        if least is not None and most is not None and most < least:
            yield view.against(
                "loudness",
                f"The programme is asked at {float(least):g} LUFS or more, and {window} at "
                f"{float(most):g} or less.",
                "The loudest moment is at least as loud as the whole.",
                (key, "sound.loudness"),
                f"Ask for at most {float(least) + 5:g} LUFS.",
                {key: {"at_most": f"{float(least) + 5:g} LUFS"}},
            )
    short, moment = view.low("sound.max_short_term"), view.high("sound.max_momentary")
    if short is not None and moment is not None and moment < short:
        yield view.against(
            "loudness",
            f"The loudest 3 s are asked at {float(short):g} LUFS or more, and the loudest 400 ms "
            f"at {float(moment):g} or less.",
            "The loudest moment is at least as loud as what surrounds it.",
            ("sound.max_momentary", "sound.max_short_term"),
            f"Ask for at most {float(short) + 3:g} LUFS.",
            {"sound.max_momentary": {"at_most": f"{float(short) + 3:g} LUFS"}},
        )
    peak, target = view.high("sound.true_peak"), view.low("sound.loudness")
    if peak is not None and target is not None and peak < target:
        yield view.against(
            "loudness",
            "The true peak may be no higher than the loudness.",
            "No programme is that flat.",
            ("sound.true_peak", "sound.loudness"),
            "Ask for at most -1 dBTP (EBU R 128).",
            {"sound.true_peak": {"at_most": "-1 dBTP"}},
        )


CHECKS = (_each_track,)
