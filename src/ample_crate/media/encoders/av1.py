"""AV1, by SVT-AV1."""

from __future__ import annotations

from ...core.formats.mastering import Mastering, levels_read
from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, tagged

PRESETS = {"usual": "8", "faster": "11"}


def setup(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options: it keeps to a rate on average, without a ceiling."""
    params = ["rc=1"] if e.quantiser is None else []
    display, light = Mastering.read(e.mastering), levels_read(e.light)
    if display is not None:
        params.append(f"mastering-display={_display(display)}")
    if light is not None:
        params.append(f"content-light={light[0]},{light[1]}")
    options = tagged(f) | {
        **({"b": str(e.bit_rate)} if e.quantiser is None else {"crf": str(e.quantiser)}),
        "g": str(e.gop),
        "preset": PRESETS[e.pace],
        "svtav1-params": ":".join(params),
    }
    return PictureSetup("libsvtav1", options, frame_threads=True, bit_rate=e.kept_to)


def _display(display: Mastering) -> str:
    red, green, blue, white = (f"({float(x):g},{float(y):g})" for x, y in display.points)
    return f"G{green}B{blue}R{red}WP{white}L({float(display.most):g},{float(display.least):g})"


PICTURE = {"av1": setup}
