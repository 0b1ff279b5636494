"""The size: how the picture is encoded so that the file is as big as it may be, asked of the way
in which the codec's size comes about.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..formats.size import RateControlled
from .budget import Budget, size_cap, sound_bytes_of
from .encoding import PictureByContent, PictureEncoding
from .notes import Notes, step
from .plan import holding
from .rate_control import Gop, plan_gop, plan_rate
from .request import Request
from .steps import PictureFormat
from .streams import AnySound, CopiedPicture
from .video import Coding


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
    rated = isinstance(coding.making.size, RateControlled)
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


def _by_content(coding: Coding) -> Notes:
    return step(
        f"{coding.codec.label} {coding.profile}",
        "Each frame takes what its picture needs, up to the profile's ceiling: the size is known "
        "when it is made.",
        "picture.codec",
        "picture.profile",
    )
