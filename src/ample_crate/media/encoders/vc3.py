"""VC-3, by the library's own encoder."""

from __future__ import annotations

from ...core.formats.vc3 import SCALES
from ...core.planning.encoding import PictureFixed
from ...core.planning.steps import PictureFormat
from .setup import PictureSetup, tagged

# It knows compression ids by one of their nominal rates (Mb/s), by bytes a frame.
NOMINAL = {
    188_416: 36,
    606_208: 120,
    917_504: 185,
    417_792: 84,
    303_104: 60,
    458_752: 90,
    212_992: 42,
}


def setup(e: PictureFixed, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options."""
    options = tagged(f) | {"profile": e.profile.replace(" ", "_")}
    if f.fields is not None:
        options["flags"] = "+ildct"
    rate = None if e.profile in SCALES else NOMINAL[e.frame_bytes] * 1_000_000
    return PictureSetup("dnxhd", options, bit_rate=rate)


PICTURE = {"dnxhd": setup}
