"""Checks on the samples: depth and chroma that a codec has in no profile, matrix against chroma,
HDR against depth and primaries.
"""

from __future__ import annotations

from collections.abc import Iterator

from ...formats.colour import HDR_TRANSFERS
from .view import Contradiction, View


def _codec(view: View) -> Iterator[Contradiction]:
    """Where a profile is asked for, `picture` looks at it."""
    known = view.able
    if (
        known is None
        or not known.profiles
        or view.asks("picture.profile")
        or view.asks("picture.profile_level")
    ):
        return
    depth, deepest = view.low("picture.bit_depth"), max(p.depth for p in known.profiles)
    if depth is not None and depth > deepest:
        yield view.against(
            "depth",
            f"{view.called} carries {deepest} bit at the most, not {depth}.",
            "No profile of it has more.",
            ("picture.bit_depth", "picture.codec"),
            f"Ask for {deepest} bit.",
            {"picture.bit_depth": {"is": deepest}},
        )
    carried = frozenset().union(*(p.chromas for p in known.profiles))
    asked = view.values("picture.chroma")
    if asked and not set(asked) & carried:
        fit = sorted(carried)
        yield view.against(
            "chroma",
            f"{view.called} does not carry {' or '.join(asked)}.",
            f"It carries {', '.join(fit)}.",
            ("picture.chroma", "picture.codec"),
            f"Ask for {' or '.join(fit)}.",
            {"picture.chroma": {"one_of": fit} if len(fit) > 1 else {"is": fit[0]}},
        )


def _matrix(view: View) -> Iterator[Contradiction]:
    chroma = view.values("picture.chroma")
    if (
        view.values("picture.matrix") == ["RGB"]
        and chroma
        and not set(chroma) & {"R'G'B'", "4:4:4"}
    ):
        yield view.against(
            "matrix",
            f"R'G'B' samples are asked for in {' or '.join(chroma)}.",
            "Only luma and colour differences can be thinned out: R'G'B' has a sample of each for "
            "every pixel (ITU-T H.264 E.2.1).",
            ("picture.matrix", "picture.chroma"),
            "Ask for BT.709.",
            {"picture.matrix": {"is": "BT.709"}},
        )


def _hdr(view: View) -> Iterator[Contradiction]:
    curves = view.values("picture.transfer")
    if not curves or not set(curves) <= HDR_TRANSFERS:
        return
    name, depth = " or ".join(curves), view.high("picture.bit_depth")
    if depth is not None and depth < 10:
        yield view.against(
            "hdr",
            f"{name} is asked for in {int(depth)} bit.",
            "ITU-R BT.2100 gives it 10 or 12 bits; with fewer, skies and lanterns show steps.",
            ("picture.bit_depth", "picture.transfer"),
            "Ask for 10 bit.",
            {"picture.bit_depth": {"is": 10}},
        ).doubtful()
    primaries = view.values("picture.primaries")
    if primaries and "BT.2020" not in primaries:
        yield view.against(
            "hdr",
            f"{name} is asked for with the primaries of {' or '.join(primaries)}.",
            "ITU-R BT.2100 has one set of primaries, those of BT.2020.",
            ("picture.primaries", "picture.transfer"),
            "Ask for BT.2020.",
            {"picture.primaries": {"is": "BT.2020"}},
        ).doubtful()


CHECKS = (_codec, _matrix, _hdr)
