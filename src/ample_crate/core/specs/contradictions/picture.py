"""Checks on how the picture is coded: level, profile, wrapper and its tag, transparency."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from ...formats import carriage, levels
from ...formats.codecs import SPOKEN
from ...units.values import Size, fraction, show_bit_rate
from ..rules import limits
from .view import Contradiction, View, asked_level


def _level(view: View) -> Iterator[Contradiction]:
    codec = view.codec
    found = asked_level(view, codec) if codec else None
    if codec is None or found is None:
        return
    key, level, profile = found
    interlaced = view.only("motion.scan") == "interlaced"
    # Where the rate is free the slowest usual one counts: what does not fit at that fits at none.
    ways = [(size, rate) for size in view.sizes for rate in view.rates or [Fraction(24000, 1001)]]
    odd = [
        (levels.lowest(codec, profile, size, rate, 0, interlaced), size, rate)
        for size, rate in ways
        if levels.holds(codec, level, size, rate, interlaced) is False
    ]
    if odd:
        # The heaviest picture decides which level is asked for instead.
        names = [v.name for v in levels.levels(codec, profile)]
        fit, size, rate = max(
            odd, key=lambda o: len(names) if o[0] is None else names.index(o[0].name)
        )
        keys = (key, "picture.size", "motion.rate") if view.rates else (key, "picture.size")
        table = next(v for v in levels.levels(codec, profile) if v.name == level)
        yield view.against(
            "level",
            f"Level {level} cannot hold {size}"
            + (f" at {float(rate):g} fps." if view.rates else "."),
            f"{levels.load(codec, size, rate, interlaced)}; level {level} holds {table.says} "
            f"({table.source}).",
            keys,
            f"Ask for level {fit.name}."
            if fit
            else "Ask for a smaller picture: no level holds this one.",
            {key: {"is": fit.name} if codec == "mpeg2video" else {"at_most": float(fit.name)}}
            if fit
            else {},
        )
        return
    held = next((v for v in levels.levels(codec, profile) if v.name == level), None)
    least = view.low("picture.bit_rate")
    if held is not None and least is not None and least > held.bit_rate:
        size, rate = (view.sizes or [Size(16, 16)])[-1], (view.rates or [Fraction(1)])[-1]
        higher = levels.lowest(codec, profile, size, rate, int(least), interlaced)
        yield view.against(
            "level rate",
            f"Level {level} allows {show_bit_rate(held.bit_rate)}; at least "
            f"{show_bit_rate(int(least))} is asked.",
            f"A stream that names a level may not exceed its rate ({held.source}).",
            (key, "picture.bit_rate"),
            f"Ask for level {higher.name}, or a lower rate."
            if higher
            else f"Ask for at most {show_bit_rate(held.bit_rate)}.",
            (
                {
                    key: {"is": higher.name}
                    if codec == "mpeg2video"
                    else {"at_most": float(higher.name)}
                }
                if higher
                else {"picture.bit_rate": {"at_most": f"{held.bit_rate} b/s"}}
            ),
            doubt=codec == "h264" and not profile,
        )
        return
    yield from _ceiling(view, key, level, held)


def _ceiling(view: View, key: str, level: str, held: levels.Held | None) -> Iterator[Contradiction]:
    """Find what is allowed above a level; in one second a stream may also empty the decoder's
    buffer.
    """
    for rate_key, limit in (
        (
            ("picture.bit_rate", held.bit_rate),
            ("picture.peak_bit_rate", held.bit_rate + held.buffer),
        )
        if held is not None
        else ()
    ):
        # What a tolerance lets pass is no wish.
        caps = [r for r in view.on(rate_key) if r.rule.operator in {"at_most", "between"}]
        tops = [int(fraction(limits(r)[-1])) for r in caps]
        over = min(tops, default=None)
        if held is not None and over is not None and over > limit:
            second = (
                " in any second, its buffer counted" if rate_key == "picture.peak_bit_rate" else ""
            )
            yield view.against(
                "level ceiling",
                f"Up to {show_bit_rate(over)} is allowed; level {level} allows "
                f"{show_bit_rate(limit)}{second}.",
                f"What lies above can never be used ({held.source}).",
                (key, rate_key),
                f"Ask for at most {show_bit_rate(limit)}, or for a higher level.",
                {rate_key: {"at_most": f"{limit} b/s"}}
                if all(r.rule.operator == "at_most" for r in view.on(rate_key))
                else {},
                doubt=True,
            )


def _profile(view: View) -> Iterator[Contradiction]:
    codec = view.codec
    known = view.able
    if known is None or not known.profiles:
        return
    profiles, key = view.values("picture.profile"), "picture.profile"
    if profiles is None and codec == "mpeg2video" and view.values("picture.profile_level"):
        profiles, key = (
            [v.split("@")[0] for v in view.values("picture.profile_level") or []],
            "picture.profile_level",
        )
    if not profiles:
        return
    unknown = [p for p in profiles if p not in known.profiles]
    if unknown:
        yield view.against(
            "profile",
            f"{view.called} has no profile '{unknown[0]}'.",
            f"It has {', '.join(known.profiles)}.",
            (key, "picture.codec"),
            "Name one of these.",
            {key: None},
        )
        return
    for chroma in view.values("picture.chroma") or []:
        if not any(chroma in known.profiles[p][0] for p in profiles):
            fit = next((p for p, (chromas, _) in known.profiles.items() if chroma in chromas), None)
            yield view.against(
                "profile chroma",
                f"Profile {' or '.join(profiles)} does not carry {chroma}.",
                f"It carries "
                f"{', '.join(sorted({c for p in profiles for c in known.profiles[p][0]}))}.",
                (key, "picture.chroma", "picture.codec"),
                f"Ask for profile {fit}, or other chroma." if fit else "Ask for other chroma.",
                {key: {"is": fit}} if fit and key == "picture.profile" else {},
            )
    depth = view.low("picture.bit_depth")
    deepest = max(known.profiles[p][1] for p in profiles)
    if depth is not None and depth > deepest:
        fit = next((p for p, (_, most) in known.profiles.items() if most >= depth), None)
        yield view.against(
            "profile depth",
            f"Profile {' or '.join(profiles)} carries {deepest} bit, not {depth}.",
            "More depth needs another profile.",
            (key, "picture.bit_depth", "picture.codec"),
            f"Ask for profile {fit}." if fit else f"Ask for {deepest} bit.",
            {key: {"is": fit}}
            if fit and key == "picture.profile"
            else {"picture.bit_depth": {"is": deepest}},
        )


def _wrapper(view: View) -> Iterator[Contradiction]:
    codecs, wrappers = view.values("picture.codec"), view.values("file.wrapper")
    for codec in codecs or []:
        known = carriage.PICTURE.get(codec)
        odd = [w for w in wrappers or [] if known is not None and w not in known.wrappers]
        if odd and known is not None and len(odd) == len(wrappers or []):
            fits = sorted(known.wrappers)
            yield view.against(
                "wrapper",
                f"{view.called} does not go into {SPOKEN.get(odd[0], odd[0])}.",
                f"It has a standard place in {', '.join(SPOKEN.get(w, w) for w in fits)}.",
                ("file.wrapper", "picture.codec"),
                "Ask for one of these.",
                {"file.wrapper": {"one_of": fits} if len(fits) > 1 else {"is": fits[0]}},
            )
    if (
        view.asks("picture.tag")
        and wrappers
        and not set(wrappers) & carriage.TAGGED
        and not _absent(view, "picture.tag")
    ):
        yield view.against(
            "tag",
            f"{SPOKEN.get(wrappers[0], wrappers[0])} has no four-character codec tag.",
            "Only MP4, MOV and AVI name their codecs so.",
            ("picture.tag", "file.wrapper"),
            "Leave the tag out.",
            {"picture.tag": None},
        )


def _names(view: View) -> Iterator[Contradiction]:
    """Hold the names by which files call their codec against the codec."""
    profiles = view.values("picture.profile")
    tags = view.values("picture.tag") or []
    told = [carriage.TAGS[t] for t in tags if t in carriage.TAGS]
    if view.codec and told and len(told) == len(tags):
        if all(c != view.codec for c, _ in told):
            usual = next(
                (
                    t
                    for t, (c, profile) in carriage.TAGS.items()
                    if c == view.codec and (not profiles or profile in {"", *profiles})
                ),
                None,
            )
            yield view.against(
                "tag codec",
                f"The tag {tags[0]} names {SPOKEN.get(told[0][0], told[0][0])}; {view.called} is "
                f"asked.",
                "A file whose tag and stream differ is refused, or not played.",
                ("picture.tag", "picture.codec"),
                f"Ask for {usual}." if usual else "Leave the tag out.",
                {"picture.tag": {"is": usual} if usual else None},
            )
        elif profiles and all(
            c == view.codec and profile and profile not in profiles for c, profile in told
        ):
            usual = next(
                t
                for t, (c, profile) in carriage.TAGS.items()
                if c == view.codec and profile in profiles
            )
            yield view.against(
                "tag codec",
                f"The tag {tags[0]} names profile {told[0][1]}; {' or '.join(profiles)} is asked.",
                "Of this codec the tag tells the profile (SMPTE RDD 36).",
                ("picture.tag", "picture.profile"),
                f"Ask for {usual}.",
                {"picture.tag": {"is": usual}},
            )
    strings = view.values("picture.codec_string") or []
    known = [carriage.STRINGS.get(s.split(".")[0]) for s in strings]
    if view.codec and known and all(k is not None and k != view.codec for k in known):
        yield view.against(
            "tag codec",
            f"The codec string {strings[0]} names {SPOKEN.get(known[0] or '', known[0])}; "
            f"{view.called} is asked.",
            "A browser that is told the wrong codec does not play the file (RFC 6381).",
            ("picture.codec_string", "picture.codec"),
            "Leave the codec string out.",
            {"picture.codec_string": None},
        )


def _absent(view: View, key: str) -> bool:
    return all(r.rule.present is False for r in view.on(key))


def _alpha(view: View) -> Iterator[Contradiction]:
    known = view.able
    if view.only("picture.alpha") is not True or known is None:
        return
    profiles: list[Any] = view.values("picture.profile") or []
    if not known.alpha or ("*" not in known.alpha and profiles and not set(profiles) & known.alpha):
        name = view.called + (f" {profiles[0]}" if known.alpha else "")
        yield view.against(
            "alpha",
            f"{name} carries no transparency.",
            "It would be dropped without a word.",
            ("picture.alpha", "picture.codec", "picture.profile"),
            f"Ask for profile {sorted(known.alpha)[0]}."
            if known.alpha
            else "Ask for ProRes 4444, VP9 or HAP Alpha, or for no transparency.",
            {"picture.profile": {"is": sorted(known.alpha)[0]}}
            if known.alpha
            else {"picture.alpha": {"is": False}},
        )


CHECKS = (_level, _profile, _wrapper, _names, _alpha)
