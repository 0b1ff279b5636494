"""The picture's coding: codec, profile, and how samples lie in it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import cast

from .. import formats
from ..errors import Impossible
from ..formats.codec import PictureCodec, PictureMaking
from ..formats.pixels import FINENESS, Pixels
from ..formats.size import FixedPerFrame, Frame
from ..specs.rules import limits, test
from ..units.fields import FieldOrder, field_order
from .request import USUAL_RATE, Request, positive


@dataclass(frozen=True)
class Coding:
    """The codec and profile that are asked for, as far as they do not hang on the rate.

    Attributes:
        profile_level: where the spec asks for both in one.
        pixels: how samples lie in what is made.
    """

    codec: PictureCodec
    making: PictureMaking
    profile: str
    profile_level: str
    pixels: Pixels

    @property
    def said(self) -> str:
        """Name codec and profile, as "H.264 high"; codecs without profiles by their name alone."""
        label = self.codec.label
        # Some profiles bear the codec's name themselves.
        own = self.profile.lower().startswith(label.lower())
        return f"{label} {self.profile[len(label) :].strip() if own else self.profile}".strip()


def plan_coding(request: Request, wrapper: str) -> Coding:
    """Settle codec and profile.

    Raises:
        Impossible: they cannot be made here, or not into this wrapper.
    """
    values = request.values
    key = codec_key(request)
    codec = formats.PICTURE.get(key)
    making = codec.made if codec is not None else None
    if codec is None or making is None:
        raise Impossible(
            f"The codec '{key}' cannot be made here.",
            f"It can be one of {', '.join(formats.made_picture())}.",
        )
    profile_level = str(values.get("picture.profile_level", "") or "")
    profile = profile_level.split("@")[0] if profile_level else _profile(request, codec, making)
    _require_possible(codec, profile, wrapper)
    return Coding(codec, making, profile, profile_level, _pixels(request, codec, making, profile))


def _require_possible(codec: PictureCodec, profile: str, wrapper: str) -> None:
    places = codec.places(profile)
    if wrapper not in places:
        raise Impossible(
            f"{f'{codec.label} {profile}'.strip()} does not go into {formats.label(wrapper)} here.",
            f"Ask for one of {', '.join(sorted(map(formats.label, places)))}.",
        )


def codec_key(request: Request) -> str:
    """Settle the codec; of several that the spec allows and nobody chose from, one that is made
    here.
    """
    made, values = formats.made_picture(), request.values
    key = cast(str, values.get("picture.codec", formats.USUAL_PICTURE))
    if key in made or "picture.codec" in values.chosen:
        return key
    listed = [r for r in request.spec.on("picture.codec") if r.rule.operator == "one_of"]
    allowed = [str(value) for rule in listed for value in limits(rule)]
    return next((one for one in allowed if one in made), key)


def _profile(request: Request, codec: PictureCodec, making: PictureMaking) -> str:
    """Settle the profile: where nobody asks, one that carries transparency if there is some."""
    values, usual = request.values, making.usual
    if request.spec.requirement("picture.profile") is not None:
        return str(values.get("picture.profile", usual))
    made = [p.name for p in codec.profiles if p.made]
    clear = [p.name for p in codec.profiles if any(m.alpha for m in p.made)]
    if clear and _clear(request):
        usual = clear[0]
    elif isinstance(making.model(usual), FixedPerFrame):
        usual = min([usual, *made], key=lambda p: _misfit(request, making, p, codec.layouts(p)))
    return str(values.chosen.get("picture.profile", usual))


def _misfit(request: Request, making: PictureMaking, name: str, layouts: Sequence[Pixels]) -> int:
    """Count the rules that the best layout of a profile breaks."""
    return min(_broken(request, making, name, one) for one in layouts)


def _clear(request: Request) -> bool:
    """Say whether what is made is to have transparency: as asked, else as the master."""
    have = bool(request.master.value("picture.alpha"))
    return bool(request.values.get("picture.alpha", have))


def _pixels(request: Request, codec: PictureCodec, making: PictureMaking, profile: str) -> Pixels:
    """Choose how samples lie: as the spec asks, with transparency where the master has some or the
    spec asks, and no coarser than the master nor finer than need be.
    """
    layouts = codec.layouts(profile)
    if not layouts:
        raise Impossible(
            f"{codec.label} has no profile '{profile}' here.",
            f"It can be {', '.join(p.name for p in codec.profiles if p.made)}.",
        )
    clear, have = _clear(request), _fineness_of(request)

    def misfit(one: Pixels) -> tuple[int, bool, int, int]:
        chroma, depth = FINENESS.get(one.chroma, 0) - have[0], one.depth - have[1]
        lost, gained = max(0, -chroma) + max(0, -depth), max(0, chroma) + max(0, depth)
        broken = _broken(request, making, profile, one)
        return broken, one.alpha != clear, lost, gained

    return min(layouts, key=misfit)


def _broken(request: Request, making: PictureMaking, profile: str, pixels: Pixels) -> int:
    """Count the rules that samples so laid out break, or a rate that goes with them."""
    asked = {"picture.chroma": pixels.chroma, "picture.bit_depth": pixels.depth}
    broken = [r for key, v in asked.items() for r in request.spec.on(key) if not test(r)(v)]
    model = making.model(profile)
    if not isinstance(model, FixedPerFrame):
        return len(broken)
    frame = _frame(request, pixels)
    rates = [int(8 * size * frame.rate) for size in model.sizes(profile, frame) if frame.rate]
    if not rates:
        return len(broken) + 2
    return len(broken) + (not any(keeps_rate(request, rate) for rate in rates))


def keeps_rate(request: Request, rate: int) -> bool:
    """Say whether a picture's b/s are what the spec asks."""
    rules = [r for r in request.spec.on("picture.bit_rate") if r.when is None]
    return all(test(r)(rate) for r in rules)


def _frame(request: Request, pixels: Pixels) -> Frame:
    """Describe the picture that is asked for."""
    values, have = request.values, request.master.fraction("motion.rate") or USUAL_RATE
    rate = positive(values.get("motion.rate", have), "frame rate")
    aspect = values.get("picture.pixel_aspect", Fraction(1))
    return Frame(values.get("picture.size"), rate, fields_asked(request), pixels, aspect)


def fields_asked(request: Request) -> FieldOrder | None:
    """Settle the order of fields; None for whole frames."""
    values = request.values
    scan = str(values.get("motion.scan", "progressive"))
    usual = request.master.value("motion.field_order") or "none"
    order = field_order(str(values.get("motion.field_order", usual)))
    return (order or FieldOrder.UPPER) if scan == "interlaced" else None


def _fineness_of(request: Request) -> tuple[int, int]:
    """Give how fine a master's chroma is, and its bits a sample."""
    master = request.master
    chroma = FINENESS.get(str(master.value("picture.chroma") or ""), 0)
    return chroma, int(master.value("picture.bit_depth") or 8)
