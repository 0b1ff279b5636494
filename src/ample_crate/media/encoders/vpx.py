"""VP8 and VP9, by libvpx."""

from __future__ import annotations

from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, rated

UNREACHED = 1_000_000_000  # b/s
CAREFUL = {"usual": "2", "faster": "5"}


def vp8(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options; transparency goes beside hidden frames badly."""
    return _setup("libvpx", e, f, {"auto-alt-ref": "0"} if f.alpha else {})


def vp9(e: RatedPicture, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options."""
    return _setup("libvpx-vp9", e, f, {"row-mt": "1"} | ({"auto-alt-ref": "0"} if f.alpha else {}))


def _setup(encoder: str, e: RatedPicture, f: PictureFormat, more: dict[str, str]) -> PictureSetup:
    options = rated(e, f) | {"deadline": "good", "cpu-used": CAREFUL[e.pace]} | more
    del options["bf"]
    if e.coarsest is not None:
        options |= {"qmin": "0", "qmax": str(e.coarsest)}
    if e.quantiser is not None:
        only = str(e.quantiser)
        options |= {"b": str(UNREACHED), "qmin": only, "qmax": only}
    if e.constant:
        options["minrate"] = str(e.bit_rate)
    rate = e.bit_rate if e.quantiser is None else int(options["b"])
    return PictureSetup(encoder, options, frame_threads=True, bit_rate=rate)


PICTURE = {"vp8": vp8, "vp9": vp9}
