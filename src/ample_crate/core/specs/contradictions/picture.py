"""Checks on how the picture is coded: level, profile, wrapper and its tag, transparency."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from ... import formats
from ...formats.codec import Profile
from ...formats.levels import Level, Load
from ...units.values import Size, fraction, show_bit_rate
from ..rules import limits
from .view import AskedLevel, Contradiction, View, asked_level


def _level(view: View) -> Iterator[Contradiction]:
    asked = asked_level(view)
    if asked is None:
        return
    held = asked.level
    odd = list(_too_much(view, held)) if held is not None else []
    if odd and held is not None:
        yield _cannot_hold(view, asked, held, odd)
        return
    least = view.low("picture.bit_rate")
    if held is not None and least is not None and least > held.bit_rate:
        yield _level_rate(view, asked, held, int(least))
        return
    if held is not None:
        yield from _ceiling(view, asked, held)


def _too_much(view: View, level: Level) -> Iterator[Load]:
    """Give the pictures that a level cannot hold."""
    interlaced = view.only("motion.scan") == "interlaced"
    # Where the rate is free the slowest usual one counts: what does not fit at that fits at none.
    for size in view.sizes:
        for rate in view.rates or [Fraction(24000, 1001)]:
            load = Load(size, rate, interlaced)
            if not level.holds(load):
                yield load


def _cannot_hold(view: View, asked: AskedLevel, held: Level, odd: list[Load]) -> Contradiction:
    levels, key = asked.levels, asked.key
    # The heaviest picture decides which level is asked for instead.
    names = [v.name for v in levels.table(asked.profile)]
    fits = [(levels.lowest(load, 0, asked.profile), load) for load in odd]
    fit, load = max(fits, key=lambda f: len(names) if f[0] is None else names.index(f[0].name))
    at = f" at {float(load.rate):g} fps." if view.rates else "."
    says = f"Ask for level {fit.name}." if fit else "Ask for a smaller picture: no level holds it."
    return view.against(
        "level",
        f"Level {held.name} cannot hold {load.size}{at}",
        f"{levels.said(load)}; level {held.name} holds {held.says} ({levels.source}).",
        (key, "picture.size", "motion.rate") if view.rates else (key, "picture.size"),
        says,
        {key: levels.rule(fit)} if fit else {},
    )


def _level_rate(view: View, asked: AskedLevel, held: Level, least: int) -> Contradiction:
    levels, key = asked.levels, asked.key
    interlaced = view.only("motion.scan") == "interlaced"
    size, rate = (view.sizes or [Size(16, 16)])[-1], (view.rates or [Fraction(1)])[-1]
    higher = levels.lowest(Load(size, rate, interlaced), least, asked.profile)
    changes: dict[str, dict[str, Any]]
    if higher is not None:
        says, changes = f"Ask for level {higher.name}, or a lower rate.", {key: levels.rule(higher)}
    else:
        says = f"Ask for at most {show_bit_rate(held.bit_rate)}."
        changes = {"picture.bit_rate": {"at_most": f"{held.bit_rate} b/s"}}
    return view.against(
        "level rate",
        f"Level {held.name} allows {show_bit_rate(held.bit_rate)}; at least "
        f"{show_bit_rate(least)} is asked.",
        f"A stream that names a level may not exceed its rate ({levels.source}).",
        (key, "picture.bit_rate"),
        says,
        changes,
    ).doubtful(levels.by_profile and not asked.profile)


def _ceiling(view: View, asked: AskedLevel, held: Level) -> Iterator[Contradiction]:
    """Find what is allowed above a level; in one second a stream may also empty the decoder's
    buffer.
    """
    limits_by_key = {"picture.bit_rate": held.bit_rate}
    if held.buffer is not None:
        limits_by_key["picture.peak_bit_rate"] = held.bit_rate + held.buffer
    for rate_key, limit in limits_by_key.items():
        # What a tolerance lets pass is no wish.
        caps = [r for r in view.on(rate_key) if r.rule.operator in {"at_most", "between"}]
        tops = [int(fraction(limits(r)[-1])) for r in caps]
        over = min(tops, default=None)
        if over is None or over <= limit:
            continue
        peak = rate_key == "picture.peak_bit_rate"
        second = " in any second, its buffer counted" if peak else ""
        plain = all(r.rule.operator == "at_most" for r in view.on(rate_key))
        yield view.against(
            "level ceiling",
            f"Up to {show_bit_rate(over)} is allowed; level {held.name} allows "
            f"{show_bit_rate(limit)}{second}.",
            f"What lies above can never be used ({asked.levels.source}).",
            (asked.key, rate_key),
            f"Ask for at most {show_bit_rate(limit)}, or for a higher level.",
            {rate_key: {"at_most": f"{limit} b/s"}} if plain else {},
        ).doubtful()


def _profile(view: View) -> Iterator[Contradiction]:
    known = view.able
    if known is None or not known.profiles:
        return
    names, key = view.values("picture.profile"), "picture.profile"
    together = known.levels is not None and known.levels.named_with_profile
    if names is None and together and view.values("picture.profile_level"):
        key = "picture.profile_level"
        names = [v.split("@")[0] for v in view.values(key) or []]
    if not names:
        return
    unknown = [name for name in names if known.profile(name) is None]
    if unknown:
        yield view.against(
            "profile",
            f"{view.called} has no profile '{unknown[0]}'.",
            f"It has {', '.join(p.name for p in known.profiles)}.",
            (key, "picture.codec"),
            "Name one of these.",
            {key: None},
        )
        return
    asked = [p for p in known.profiles if p.name in names]
    yield from _profile_chroma(view, known.profiles, asked, key)
    yield from _profile_depth(view, known.profiles, asked, key)


def _profile_chroma(
    view: View, profiles: tuple[Profile, ...], asked: list[Profile], key: str
) -> Iterator[Contradiction]:
    for chroma in view.values("picture.chroma") or []:
        if any(chroma in p.chromas for p in asked):
            continue
        fit = next((p.name for p in profiles if chroma in p.chromas), None)
        yield view.against(
            "profile chroma",
            f"Profile {' or '.join(p.name for p in asked)} does not carry {chroma}.",
            f"It carries {', '.join(sorted({c for p in asked for c in p.chromas}))}.",
            (key, "picture.chroma", "picture.codec"),
            f"Ask for profile {fit}, or other chroma." if fit else "Ask for other chroma.",
            {key: {"is": fit}} if fit and key == "picture.profile" else {},
        )


def _profile_depth(
    view: View, profiles: tuple[Profile, ...], asked: list[Profile], key: str
) -> Iterator[Contradiction]:
    depth, deepest = view.low("picture.bit_depth"), max(p.depth for p in asked)
    if depth is None or depth <= deepest:
        return
    fit = next((p.name for p in profiles if p.depth >= depth), None)
    by_profile = fit and key == "picture.profile"
    yield view.against(
        "profile depth",
        f"Profile {' or '.join(p.name for p in asked)} carries {deepest} bit, not {depth}.",
        "More depth needs another profile.",
        (key, "picture.bit_depth", "picture.codec"),
        f"Ask for profile {fit}." if fit else f"Ask for {deepest} bit.",
        {key: {"is": fit}} if by_profile else {"picture.bit_depth": {"is": deepest}},
    )


def _wrapper(view: View) -> Iterator[Contradiction]:
    codecs, wrappers = view.values("picture.codec"), view.values("file.wrapper") or []
    for codec in codecs or []:
        row = formats.PICTURE.get(codec)
        places = formats.carried_in(row) if row is not None else None
        if places is None or not wrappers or any(w in places for w in wrappers):
            continue
        fits = sorted(places)
        yield view.against(
            "wrapper",
            f"{view.called} does not go into {formats.label(wrappers[0])}.",
            f"It has a standard place in {', '.join(formats.label(w) for w in fits)}.",
            ("file.wrapper", "picture.codec"),
            "Ask for one of these.",
            {"file.wrapper": {"one_of": fits} if len(fits) > 1 else {"is": fits[0]}},
        )
    tagged = {w.key: w.label for w in formats.WRAPPERS.values() if w.tagged}
    asked = view.asks("picture.tag") and not _absent(view, "picture.tag")
    if asked and wrappers and not set(wrappers) & set(tagged):
        *others, last = tagged.values()
        yield view.against(
            "tag",
            f"{formats.label(wrappers[0])} has no four-character codec tag.",
            f"Only {', '.join(others)} and {last} name their codecs so.",
            ("picture.tag", "file.wrapper"),
            "Leave the tag out.",
            {"picture.tag": None},
        )


def _names(view: View) -> Iterator[Contradiction]:
    """Hold the names by which files call their codec against the codec."""
    if view.codec:
        yield from _tag(view, view.codec)
        yield from _string(view, view.codec)


def _tag(view: View, codec: str) -> Iterator[Contradiction]:
    profiles, tags = view.values("picture.profile"), view.values("picture.tag") or []
    told = [formats.TAGS[t] for t in tags if t in formats.TAGS]
    if not told or len(told) < len(tags):
        return
    mine = {t: profile for t, (c, profile) in formats.TAGS.items() if c == codec}
    if all(c != codec for c, _ in told):
        fits = (t for t, p in mine.items() if not profiles or p in {"", *profiles})
        usual = next(fits, None)
        yield view.against(
            "tag codec",
            f"The tag {tags[0]} names {formats.label(told[0][0])}; {view.called} is asked.",
            "A file whose tag and stream differ is refused, or not played.",
            ("picture.tag", "picture.codec"),
            f"Ask for {usual}." if usual else "Leave the tag out.",
            {"picture.tag": {"is": usual} if usual else None},
        )
    elif profiles and all(c == codec and p and p not in profiles for c, p in told):
        usual = next((t for t, p in mine.items() if p in profiles), None)
        yield view.against(
            "tag codec",
            f"The tag {tags[0]} names profile {told[0][1]}; {' or '.join(profiles)} is asked.",
            "Of this codec the tag tells the profile.",
            ("picture.tag", "picture.profile"),
            f"Ask for {usual}." if usual else "Leave the tag out.",
            {"picture.tag": {"is": usual} if usual else None},
        )


def _string(view: View, codec: str) -> Iterator[Contradiction]:
    strings = view.values("picture.codec_string") or []
    known = [formats.STRINGS.get(s.split(".")[0]) for s in strings]
    if known and all(k is not None and k != codec for k in known):
        yield view.against(
            "tag codec",
            f"The codec string {strings[0]} names {formats.label(known[0] or '')}; "
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
    profiles: list[str] = view.values("picture.profile") or []
    if known.clear(profiles):
        return
    fit = next((p.name for p in known.profiles if p.alpha), None)
    yield view.against(
        "alpha",
        f"{view.called} is made without transparency here."
        if known.alpha_unmade
        else f"{view.called}{f' {profiles[0]}' if fit else ''} carries no transparency.",
        known.alpha_unmade or "It would be dropped without a word.",
        ("picture.alpha", "picture.codec", "picture.profile"),
        f"Ask for profile {fit}."
        if fit
        else "Ask for ProRes 4444, VP9 or HAP Alpha, or for no transparency.",
        {"picture.profile": {"is": fit}} if fit else {"picture.alpha": {"is": False}},
    )


CHECKS = (_level, _profile, _wrapper, _names, _alpha)
