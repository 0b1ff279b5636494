"""The size: how the picture is encoded so that the file is as big as it may be, asked of the way
in which the codec's size comes about.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from .. import formats
from ..errors import Impossible
from ..formats.size import FixedPerFrame, Frame, Lossless, RateControlled
from ..units.values import fraction, show_bit_rate, show_bytes
from .budget import Budget, size_cap, sound_bytes_of
from .coding import Coding, keeps_rate
from .encoding import PictureByContent, PictureEncoding, PictureFixed, PictureLossless
from .level import Claim, load_of, plan_level
from .notes import Notes, step
from .plan import holding
from .rate_control import Gop, plan_gop, plan_rate
from .request import Request
from .steps import PictureFormat
from .streams import AnySound, CopiedPicture


@dataclass(frozen=True)
class Sized:
    """The picture's encoding, and the room that it was given."""

    encoding: PictureEncoding
    budget: Budget
    notes: Notes


def plan_size(
    request: Request,
    coding: Coding,
    f: PictureFormat,
    wrapper: str,
    sounds: Sequence[AnySound],
    seconds: Fraction,
) -> Sized:
    """Settle how the picture is encoded.

    Raises:
        Impossible: sound and wrapper alone fill the cap.
    """
    model = coding.making.model(coding.profile, wrapper)
    rated = isinstance(model, RateControlled)
    gop = plan_gop(request, coding, f.rate) if rated else Gop(1, 0)
    frames = round(seconds * f.rate)
    cap, whose = size_cap(request.values, request.share)
    budget = Budget(
        cap,
        whose,
        sound_bytes_of(sounds, seconds),
        wrapper,
        holding(seconds, frames, gop.frames, gop.b_frames > 0, sounds),
    )
    if rated:
        encoding, notes = plan_rate(request, coding, f, gop, budget)
        return Sized(encoding, budget, notes)
    if isinstance(model, FixedPerFrame):
        fixed, notes = _fixed(request, coding, model, f, wrapper)
        return Sized(fixed, budget, notes)
    if isinstance(model, Lossless):
        plain = PictureLossless(codec=coding.codec.key, profile=coding.profile)
        return Sized(plain, budget, _lossless(coding))
    content = PictureByContent(codec=coding.codec.key, profile=coding.profile)
    return Sized(content, budget, _by_content(coding))


def copy_budget(
    request: Request,
    picture: CopiedPicture | None,
    wrapper: str,
    sounds: Sequence[AnySound],
    seconds: Fraction,
) -> Budget:
    """Say what a file with a copied picture, or with none, may weigh."""
    cap, whose = size_cap(request.values, request.share)
    if picture is None:
        held = holding(seconds, 0, 1, False, sounds)
    else:
        frames = round(seconds * picture.format.rate)
        held = holding(seconds, frames, picture.gop, picture.reordered, sounds)
    return Budget(cap, whose, sound_bytes_of(sounds, seconds), wrapper, held)


def _fixed(
    request: Request, coding: Coding, model: FixedPerFrame, f: PictureFormat, wrapper: str
) -> tuple[PictureFixed, Notes]:
    """Choose the bytes of a frame: as the rate that is asked needs, else the most.

    Raises:
        Impossible: the profile does not hold the picture.
    """
    frame = Frame(f.size, f.rate, f.fields, coding.pixels, f.pixel_aspect)
    sizes = model.sizes(coding.profile, frame)
    label = coding.said
    if not sizes:
        raise Impossible(
            f"{label} does not hold {frame}.", f"It holds {model.says(coding.profile)}."
        )
    rates = {size: int(8 * size * f.rate) for size in sizes}
    fitting = [size for size in sizes if keeps_rate(request, rates[size])]
    chosen = request.values.chosen.get("picture.bit_rate")
    taken = (fitting or sizes)[-1]
    if chosen is not None:
        taken = min(fitting or sizes, key=lambda size: abs(rates[size] - fraction(chosen)))
    still = formats.WRAPPERS[wrapper].still
    weight = show_bytes(taken) if still else show_bit_rate(rates[taken])
    said = step(
        f"{label} at {weight}",
        "Every frame has the same bytes.",
        "picture.codec",
        "picture.profile",
        "picture.bit_rate",
    )
    claim = Claim(load_of(f, 1), rates[taken], None, wrapper)
    level, out_of_level = plan_level(request, coding, claim)
    fixed = PictureFixed(
        codec=coding.codec.key,
        profile=coding.profile,
        level=coding.profile_level or (level.name if level is not None else None),
        frame_bytes=taken,
    )
    return fixed, said + out_of_level


def _lossless(coding: Coding) -> Notes:
    return step(
        coding.said,
        "Every sample comes back as it was: the size is known when it is made.",
        "picture.codec",
    )


def _by_content(coding: Coding) -> Notes:
    return step(
        coding.said,
        "Each frame takes what its picture needs, up to the profile's ceiling: the size is known "
        "when it is made.",
        "picture.codec",
        "picture.profile",
    )
