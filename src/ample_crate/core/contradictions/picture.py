"""Checks on the picture: level, profile, wrapper, fields, shape, transparency."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from .. import carriage, geometry, levels
from ..codecs import SPOKEN, WRAPPER_LABELS
from ..values import Size, show_bit_rate
from .view import Contradiction, View, asked_level


def _sizes(view: View) -> list[Size]:
    return view.values("picture.size") or []


def _rates(view: View) -> list[Fraction]:
    return view.values("motion.rate") or []


def _level(view: View) -> Iterator[Contradiction]:
    codec = view.only("picture.codec")
    found = asked_level(view, codec) if codec else None
    if codec is None or found is None:
        return
    key, level, profile = found
    interlaced = view.only("motion.scan") == "interlaced"
    # Where the rate is free the slowest usual one counts: what does not fit at that fits at none.
    ways = [(size, rate) for size in _sizes(view) for rate in _rates(view) or [Fraction(24000, 1001)]]
    odd = [(levels.lowest(codec, profile, size, rate, 0, interlaced), size, rate) for size, rate in ways if levels.holds(codec, level, size, rate, interlaced) is False]
    if odd:
        # The heaviest picture decides which level is asked for instead.
        names = [v.name for v in levels.levels(codec, profile)]
        fit, size, rate = max(odd, key=lambda o: len(names) if o[0] is None else names.index(o[0].name))
        keys = (key, "picture.size", "motion.rate") if _rates(view) else (key, "picture.size")
        table = next(v for v in levels.levels(codec, profile) if v.name == level)
        yield view.against(
            "level", f"Level {level} cannot hold {size}" + (f" at {float(rate):g} fps." if _rates(view) else "."),
            f"{levels.load(codec, size, rate, interlaced)}; level {level} holds {table.says} ({table.source}).", keys,
            f"Ask for level {fit.name}." if fit else "Ask for a smaller picture: no level holds this one.",
            {key: {"is": fit.name} if codec == "mpeg2video" else {"at_most": float(fit.name)}} if fit else {},
        )  # fmt: skip
        return
    held = next((v for v in levels.levels(codec, profile) if v.name == level), None)
    least = view.low("picture.bit_rate")
    if held is not None and least is not None and least > held.bit_rate:
        size, rate = (_sizes(view) or [Size(16, 16)])[-1], (_rates(view) or [Fraction(1)])[-1]
        higher = levels.lowest(codec, profile, size, rate, int(least), interlaced)
        yield view.against(
            "level rate", f"Level {level} allows {show_bit_rate(held.bit_rate)}; at least {show_bit_rate(int(least))} is asked.",
            f"A stream that names a level may not exceed its rate ({held.source}).", (key, "picture.bit_rate"),
            f"Ask for level {higher.name}, or a lower rate." if higher else f"Ask for at most {show_bit_rate(held.bit_rate)}.",
            ({key: {"is": higher.name} if codec == "mpeg2video" else {"at_most": float(higher.name)}} if higher
             else {"picture.bit_rate": {"at_most": f"{held.bit_rate} b/s"}}),
        )  # fmt: skip


def _profile(view: View) -> Iterator[Contradiction]:
    codec = view.only("picture.codec")
    known = carriage.PICTURE.get(codec) if codec else None
    if known is None or not known.profiles:
        return
    profiles, key = view.values("picture.profile"), "picture.profile"
    if profiles is None and codec == "mpeg2video" and view.values("picture.profile_level"):
        profiles, key = [v.split("@")[0] for v in view.values("picture.profile_level") or []], "picture.profile_level"
    if not profiles:
        return
    unknown = [p for p in profiles if p not in known.profiles]
    if unknown:
        yield view.against(
            "profile", f"{SPOKEN.get(codec, codec)} has no profile '{unknown[0]}'.", f"It has {', '.join(known.profiles)}.",
            (key, "picture.codec"), "Name one of these.", {key: None},
        )  # fmt: skip
        return
    for chroma in view.values("picture.chroma") or []:
        if not any(chroma in known.profiles[p][0] for p in profiles):
            fit = next((p for p, (chromas, _) in known.profiles.items() if chroma in chromas), None)
            yield view.against(
                "profile chroma", f"Profile {' or '.join(profiles)} does not carry {chroma}.",
                f"It carries {', '.join(sorted({c for p in profiles for c in known.profiles[p][0]}))}.", (key, "picture.chroma", "picture.codec"),
                f"Ask for profile {fit}, or other chroma." if fit else "Ask for other chroma.",
                {key: {"is": fit}} if fit and key == "picture.profile" else {},
            )  # fmt: skip
    depth = view.low("picture.bit_depth")
    deepest = max(known.profiles[p][1] for p in profiles)
    if depth is not None and depth > deepest:
        fit = next((p for p, (_, most) in known.profiles.items() if most >= depth), None)
        yield view.against(
            "profile depth", f"Profile {' or '.join(profiles)} carries {deepest} bit, not {depth}.", "More depth needs another profile.",
            (key, "picture.bit_depth", "picture.codec"), f"Ask for profile {fit}." if fit else f"Ask for {deepest} bit.",
            {key: {"is": fit}} if fit and key == "picture.profile" else {"picture.bit_depth": {"is": deepest}},
        )  # fmt: skip


def _wrapper(view: View) -> Iterator[Contradiction]:
    codecs, wrappers = view.values("picture.codec"), view.values("file.wrapper")
    for codec in codecs or []:
        known = carriage.PICTURE.get(codec)
        odd = [w for w in wrappers or [] if known is not None and w not in known.wrappers]
        if odd and known is not None and len(odd) == len(wrappers or []):
            fits = sorted(known.wrappers)
            yield view.against(
                "wrapper", f"{SPOKEN.get(codec, codec)} does not go into {WRAPPER_LABELS.get(odd[0], odd[0])}.",
                f"It has a standard place in {', '.join(WRAPPER_LABELS.get(w, w) for w in fits)}.", ("file.wrapper", "picture.codec"),
                "Ask for one of these.", {"file.wrapper": {"one_of": fits} if len(fits) > 1 else {"is": fits[0]}},
            )  # fmt: skip
    if view.asks("picture.tag") and wrappers and not set(wrappers) & carriage.TAGGED and not _absent(view, "picture.tag"):
        yield view.against(
            "tag", f"{WRAPPER_LABELS.get(wrappers[0], wrappers[0])} has no four-character codec tag.", "Only MP4, MOV and AVI name their codecs so.",
            ("picture.tag", "file.wrapper"), "Leave the tag out.", {"picture.tag": None},
        )  # fmt: skip


def _absent(view: View, key: str) -> bool:
    return all(r.rule.present is False for r in view.on(key))


def _fields(view: View) -> Iterator[Contradiction]:
    scan, orders, codec = view.values("motion.scan"), view.values("motion.field_order"), view.only("picture.codec")
    if scan == ["progressive"] and orders and "none" not in orders:
        yield view.against(
            "fields", "A field order is asked of progressive pictures.", "Only interlaced pictures have an earlier and a later field.",
            ("motion.field_order", "motion.scan"), "Leave the field order out, or ask for interlaced pictures.", {"motion.field_order": None},
        )  # fmt: skip
    if scan == ["interlaced"] and orders is None:
        yield view.against(
            "field order left open", "Interlaced pictures are asked without a field order.",
            "Which field comes first is what most often goes wrong; a file with the other order would pass.",
            ("motion.scan",), "Say which field is first: upper for HD and 625 lines, lower for 525 lines in DV and MPEG-2 (common practice).",
            {"motion.field_order": {"is": "upper first"}}, doubt=True,
        )  # fmt: skip
    if scan == ["interlaced"] and orders == ["none"]:
        yield view.against(
            "fields", "Interlaced pictures are asked with no field order.", "Every interlaced picture has one field that is earlier.",
            ("motion.field_order", "motion.scan"), "Ask for upper first or lower first.", {"motion.field_order": {"one_of": ["upper first", "lower first"]}},
        )  # fmt: skip
    known = carriage.PICTURE.get(codec) if codec else None
    if scan == ["interlaced"] and known is not None and not known.interlaced:
        yield view.against(
            "fields codec", f"{SPOKEN.get(codec, codec)} cannot code fields.", "It knows whole frames only.", ("motion.scan", "picture.codec"),
            "Ask for progressive pictures.", {"motion.scan": {"is": "progressive"}, "motion.field_order": None},
        )  # fmt: skip
    if scan == ["interlaced"] and view.only("picture.profile") == "baseline":
        yield view.against(
            "fields codec", "Baseline profile cannot code fields.", "ITU-T H.264 A.2.1 allows whole frames only.", ("picture.profile", "motion.scan"),
            "Ask for main or high profile.", {"picture.profile": {"one_of": ["main", "high"]}},
        )  # fmt: skip


def _shape(view: View) -> Iterator[Contradiction]:
    size, shape, pixel = view.only("picture.size"), view.only("picture.display_aspect"), view.only("picture.pixel_aspect")
    codec = view.only("picture.codec")
    if size is not None and shape is not None and pixel is not None:
        lines = geometry.seen(codec, size).height
        widths = {view.spec.coding.active_width or size.width, size.width}
        right = {geometry.pixel_aspect(shape, width, lines) for width in widths}
        if pixel not in right:
            fit = geometry.pixel_aspect(shape, view.spec.coding.active_width or size.width, lines)
            yield view.against(
                "shape", f"Pixels of {_ratio(pixel)} do not make {size} a picture of {_ratio(shape)}.",
                f"{_ratio(shape)} over {view.spec.coding.active_width or size.width} samples and {lines} lines makes pixels of {_ratio(fit)}.",
                ("picture.pixel_aspect", "picture.size", "picture.display_aspect"), f"Ask for pixels of {_ratio(fit)}.",
                {"picture.pixel_aspect": {"is": _ratio(fit)}},
            )  # fmt: skip
    if codec == "mpeg2video" and pixel not in {None, 1} and size is not None and shape is None:
        yield view.against(
            "shape carried", "MPEG-2 does not carry a pixel aspect.", "It carries the display aspect; a file asked with 16:11 reads back as 64:45.",
            ("picture.pixel_aspect", "picture.codec"), "Ask for the display aspect instead, and say in the coding over how many samples it is spread.",
            {"picture.pixel_aspect": None, "picture.display_aspect": {"is": "16:9" if geometry.display_aspect(size, pixel) > Fraction(3, 2) else "4:3"}},
            doubt=True,
        )  # fmt: skip
    if codec == "mpeg2video" and shape is not None and shape not in {Fraction(4, 3), Fraction(16, 9), Fraction(221, 100)} and (size is None or Fraction(size.width, size.height) != shape):
        yield view.against(
            "shape carried", f"MPEG-2 cannot say a display aspect of {_ratio(shape)}.", "It knows square pixels, 4:3, 16:9 and 2.21:1 (ISO/IEC 13818-2 Table 6-3).",
            ("picture.display_aspect", "picture.codec"), "Ask for 4:3 or 16:9.", {"picture.display_aspect": {"one_of": ["4:3", "16:9"]}},
        )  # fmt: skip
    yield from _lines_and_rate(view)


def _ratio(value: Fraction) -> str:
    return f"{value.numerator}:{value.denominator}"


FIFTY, SIXTY = {Fraction(25), Fraction(50)}, {Fraction(30000, 1001), Fraction(60000, 1001), Fraction(24000, 1001)}


def _lines_and_rate(view: View) -> Iterator[Contradiction]:
    """Hold the rates of the two worlds of standard definition against the lines (ITU-R BT.601: 525 lines at 30/1.001, 625 at 25)."""
    for size in _sizes(view):
        if size.width not in {704, 720}:
            continue
        belongs = FIFTY if size.height in {576, 608} else SIXTY if size.height in {480, 486, 512} else None
        odd = [r for r in _rates(view) if belongs and r not in belongs]
        if odd and belongs:
            usual = "25" if belongs is FIFTY else "30000/1001"
            system = "625" if belongs is FIFTY else "525"
            yield view.against(
                "lines and rate", f"{float(odd[0]):g} fps is asked of a picture of {size.height} lines.",
                f"{size.height} lines belong to the {system}-line system at {usual} fps; another rate is a slip, or a file no player of it takes.",
                ("motion.rate", "picture.size"), f"Ask for {usual} fps.", {"motion.rate": {"is": usual}}, doubt=True,
            )  # fmt: skip


def _intra(view: View) -> Iterator[Contradiction]:
    codec = view.only("picture.codec")
    known = carriage.PICTURE.get(codec) if codec else None
    least = view.low("motion.longest_gop")
    frames = view.low("motion.b_frames")
    if view.only("motion.intra_only") is True:
        for key, low, limit in (("motion.longest_gop", least, 1), ("motion.b_frames", frames, 0)):
            if low is not None and low > limit:
                yield view.against(
                    "intra", "Every frame must decode by itself, and yet frames are asked that lean on others.", "A group of pictures is then one frame long.",
                    (key, "motion.intra_only"), "Leave the group's length out.", {key: None},
                )  # fmt: skip
    if view.only("motion.intra_only") is False and known is not None and known.intra:
        yield view.against(
            "intra", f"{SPOKEN.get(codec, codec)} codes every frame by itself.", "It has no frames that lean on others.", ("motion.intra_only", "picture.codec"),
            "Leave it out.", {"motion.intra_only": None},
        )  # fmt: skip


def _alpha(view: View) -> Iterator[Contradiction]:
    codec = view.only("picture.codec")
    known = carriage.PICTURE.get(codec) if codec else None
    if view.only("picture.alpha") is not True or known is None:
        return
    profiles: list[Any] = view.values("picture.profile") or []
    if not known.alpha or ("*" not in known.alpha and profiles and not set(profiles) & known.alpha):
        name = SPOKEN.get(codec, codec) + (f" {profiles[0]}" if known.alpha else "")
        yield view.against(
            "alpha", f"{name} carries no transparency.", "It would be dropped without a word.", ("picture.alpha", "picture.codec", "picture.profile"),
            f"Ask for profile {sorted(known.alpha)[0]}." if known.alpha else "Ask for ProRes 4444, VP9 or HAP Alpha, or for no transparency.",
            {"picture.profile": {"is": sorted(known.alpha)[0]}} if known.alpha else {"picture.alpha": {"is": False}},
        )  # fmt: skip


def _blocks(view: View) -> Iterator[Contradiction]:
    codec, chroma, scan = view.only("picture.codec"), view.only("picture.chroma"), view.only("motion.scan")
    for size in _sizes(view):
        if codec == "hap" and (size.width % 4 or size.height % 4):
            yield view.against(
                "blocks", f"HAP works in blocks of 4 x 4; {size} is no multiple of it.", "Players show a torn edge or refuse the file.",
                ("picture.size", "picture.codec"), "Ask for sides that are multiples of 4.",
                {"picture.size": {"is": f"{-(-size.width // 4) * 4}x{-(-size.height // 4) * 4}"}},
            )  # fmt: skip
        step = 4 if chroma == "4:2:0" and scan == "interlaced" else 2 if chroma == "4:2:0" else 1
        across = 2 if chroma in {"4:2:0", "4:2:2"} else 1
        if size.height % step or size.width % across:
            yield view.against(
                "blocks", f"{size} cannot be {chroma}{' in fields' if step == 4 else ''}.",
                f"Its chroma samples stand for {across} x {step} samples of the frame.", ("picture.size", "picture.chroma", "motion.scan"),
                f"Ask for a width in steps of {across} and a height in steps of {step}.",
                {"picture.size": {"is": f"{-(-size.width // across) * across}x{-(-size.height // step) * step}"}},
            )  # fmt: skip


CHECKS = (_level, _profile, _wrapper, _fields, _shape, _intra, _alpha, _blocks)
