"""How each codec that is made is asked of the codec library: a module a family.

A module of this package with `PICTURE` or `SOUND` is registered by being there: it maps keys of
codecs to what sets up an encoder from a plan's encoding and the format of what it gets.
"""

from __future__ import annotations

import pkgutil
from collections.abc import Callable
from importlib import import_module
from typing import Any

from ...core.planning.encoding import RatedPicture
from ...core.planning.steps import PictureFormat
from ...core.planning.streams import MadePicture, MadeSound
from . import hardware
from .setup import Opens, OpensSound

_MODULES = [import_module(f"{__name__}.{m.name}") for m in pkgutil.iter_modules(__path__)]
PICTURE: dict[str, Callable[[Any, PictureFormat], Opens]] = {
    codec: setup for m in _MODULES for codec, setup in getattr(m, "PICTURE", {}).items()
}
SOUND: dict[str, Callable[[Any], OpensSound]] = {
    codec: setup for m in _MODULES for codec, setup in getattr(m, "SOUND", {}).items()
}


def picture(stream: MadePicture) -> Opens:
    """Give the encoder and options for a picture."""
    encoding = stream.encoding
    if isinstance(encoding, RatedPicture) and encoding.pace == "hardware":
        return hardware.setup(encoding, stream.format)
    return PICTURE[stream.encoding.codec](stream.encoding, stream.format)


def sound(stream: MadeSound) -> OpensSound:
    """Give the encoder and options for a sound track."""
    return SOUND[stream.encoding.codec](stream.encoding)
