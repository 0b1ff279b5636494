"""ProRes, by the library's own encoder."""

from __future__ import annotations

from ...core.planning.encoding import PictureByContent
from ...core.planning.steps import PictureFormat
from ...core.units.parts import FieldOrder
from .setup import PictureSetup, tagged

# Its names for profiles, where they differ.
PROFILES = {"xq": "4444xq"}


def setup(e: PictureByContent, f: PictureFormat) -> PictureSetup:
    """Give the encoder and its options: it keeps each frame under its ceiling."""
    options = tagged(f) | {
        "profile": PROFILES.get(e.profile, e.profile),
        "bits_per_mb": str(e.ceiling(f)),
        "alpha_bits": "16" if f.alpha else "0",
    }
    if f.fields is not None:
        # Wrappers say it besides the frames: which field comes first of two interleaved ones.
        order = "tb" if f.fields is FieldOrder.UPPER else "bt"
        options |= {"flags": "+ildct", "field_order": order}
    return PictureSetup("prores_ks", options, frame_threads=True)


PICTURE = {"prores": setup}
