"""What exists in the trade: codecs and wrappers, a row each, and their levels.

A module of this package with `CODECS` or `WRAPPERS` is a family; its rows are registered by being
there. What can be read, asked for and made are three facts of one row. Nothing outside a codec's or
a wrapper's own modules decides anything by its name.
"""

from __future__ import annotations

import pkgutil
from collections.abc import Iterable, Iterator
from importlib import import_module

from ..units.values import Size
from .codec import PictureCodec, SoundCodec
from .wrapper import Wrapper

_MODULES = [import_module(f"{__name__}.{m.name}") for m in pkgutil.iter_modules(__path__)]


def _codecs() -> Iterator[PictureCodec | SoundCodec]:
    for module in _MODULES:
        yield from getattr(module, "CODECS", ())


def _wrappers() -> Iterable[Wrapper]:
    for module in _MODULES:
        yield from getattr(module, "WRAPPERS", ())


PICTURE: dict[str, PictureCodec] = {c.key: c for c in _codecs() if isinstance(c, PictureCodec)}
SOUND: dict[str, SoundCodec] = {c.key: c for c in _codecs() if isinstance(c, SoundCodec)}
WRAPPERS: dict[str, Wrapper] = {w.key: w for w in _wrappers()}
# What is taken where a spec leaves it open; of sound the first that the wrapper carries.
USUAL_WRAPPER, USUAL_PICTURE = "mp4", "h264"
USUAL_SOUND = ("aac", "mp2", "pcm_s24le", "pcm_s24be", "opus", "flac", "mp3", "ac3", "eac3")
# What every browser plays, and what every studio takes.
BROWSER_WRAPPER, BROWSER_SOUND, STUDIO_SOUND = "mp4", "aac", "pcm_s24le"
# Where a codec and a wrapper of it alone have one key, both are called as the codec is.
LABELS: dict[str, str] = {row.key: row.label for row in (*_wrappers(), *_codecs())}
# The library's names for what it reads, where they differ from the key.
_READ_AS: dict[str, str] = {name: c.key for c in _codecs() for name in c.decoders}
# What four characters say: the codec, and its profile where they tell it (registered at the MP4
# registration authority; from memory).
TAGS: dict[str, tuple[str, str]] = {
    tag: (c.key, profile)
    for c in PICTURE.values()
    for tag, profile in [*((t, "") for t in c.tags), *((p.tag, p.name) for p in c.profiles)]
    if tag
}
# How the codec strings of RFC 6381 begin.
STRINGS: dict[str, str] = {s: c.key for c in PICTURE.values() for s in c.strings}


def label(key: str) -> str:
    """Give the name of a codec or wrapper as it is spoken; the key itself of one that is not
    known.
    """
    return LABELS.get(key, key)


def read_as(name: str) -> str:
    """Give the key of a codec from the name that the codec library reads it by."""
    return _READ_AS.get(name, name)


def kind_of_wrapper(wrapper: str, codec: str, size: Size) -> str:
    """Give the kind of a wrapper that a picture is put into; the wrapper itself where it has none
    for it.
    """
    kinds = (w for w in WRAPPERS.values() if w.kind_of == wrapper)
    return next((w.key for w in kinds if size in w.frames.get(codec, ())), wrapper)


def carried_in(codec: PictureCodec | SoundCodec) -> frozenset[str] | None:
    """List the wrappers with a standard place for a codec; None where that is not known here."""
    if codec.wrappers is None:
        return None
    return codec.wrappers | {w.key for w in WRAPPERS.values() if codec.key in w.carries}


def copied_in(codec: PictureCodec, profile: str = "") -> frozenset[str]:
    """List the wrappers that coded frames of a picture codec's profile are put into here."""
    return codec.copied if codec.made is None else codec.places(profile)


def made_in(codec: SoundCodec) -> frozenset[str]:
    """List the wrappers that a sound codec is put into here."""
    if codec.made is not None and codec.made.wrappers is not None:
        return codec.made.wrappers
    return frozenset(w for w in carried_in(codec) or () if WRAPPERS[w].made)


def interval_lines(codec: str | None, size: Size) -> int:
    """Give how many lines of vertical-interval data a codec has above a picture."""
    row = PICTURE.get(codec or "")
    return row.interval_lines(size) if row is not None else 0


def picture_of(codec: str | None, size: Size) -> Size:
    """Give the part of the stored samples that is picture: all but the vertical interval."""
    return Size(size.width, size.height - interval_lines(codec, size))


def made_picture() -> dict[str, PictureCodec]:
    """Give the picture codecs that are made here, by key."""
    return {key: codec for key, codec in PICTURE.items() if codec.made is not None}


def made_sound() -> dict[str, SoundCodec]:
    """Give the sound codecs that are made here, by key."""
    return {key: codec for key, codec in SOUND.items() if codec.made is not None}
