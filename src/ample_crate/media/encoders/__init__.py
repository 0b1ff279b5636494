"""How each codec that is made is asked of the codec library: a module a family.

A module of this package with `PICTURE` or `SOUND` is registered by being there: it maps keys of
codecs to what sets up an encoder.
"""

from __future__ import annotations

import pkgutil
from collections.abc import Callable
from importlib import import_module

from ...core.planning.plan import PictureTarget, SoundTarget
from .setup import PictureSetup, SoundSetup

_MODULES = [import_module(f"{__name__}.{m.name}") for m in pkgutil.iter_modules(__path__)]
PICTURE: dict[str, Callable[[PictureTarget], PictureSetup]] = {
    codec: setup for m in _MODULES for codec, setup in getattr(m, "PICTURE", {}).items()
}
SOUND: dict[str, Callable[[SoundTarget], SoundSetup]] = {
    codec: setup for m in _MODULES for codec, setup in getattr(m, "SOUND", {}).items()
}


def picture(target: PictureTarget) -> PictureSetup:
    """Give the encoder and options for a picture."""
    return PICTURE[target.codec](target)


def sound(target: SoundTarget) -> SoundSetup:
    """Give the encoder and options for a sound track."""
    return SOUND[target.codec](target)
