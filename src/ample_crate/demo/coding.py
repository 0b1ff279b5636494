"""How the demo's ProRes masters are coded: as the product codes them."""

from __future__ import annotations

from fractions import Fraction

from av.container import OutputContainer

from ..core.planning.encoding import PictureByContent
from ..core.planning.steps import PictureFormat
from ..core.planning.streams import MadePicture
from ..media import encoders
from ..media.encoders.setup import Coder


def prores(container: OutputContainer, profile: str, size: tuple[int, int], alpha: bool) -> Coder:
    """Add a stream of 25 frames a second, whose samples have 10 bits."""
    f = PictureFormat(
        width=size[0],
        height=size[1],
        rate=Fraction(25),
        chroma="4:4:4" if alpha else "4:2:2",
        depth=10,
        alpha=alpha,
    )
    encoding = PictureByContent(codec="prores", profile=profile)
    made = MadePicture(source=f, steps=(), encoding=encoding)
    return encoders.picture(made).open(container, f, None)
