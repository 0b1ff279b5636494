"""Media types with the codecs parameter of RFC 6381, and the HTML snippet that plays a file.

Source: RFC 6381 section 3.3; tests/browser hands what Chromium plays to it.
"""

from __future__ import annotations

from html import escape

from .. import formats
from ..formats.pixels import Pixels
from .facts import Facts


def media_type(facts: Facts) -> str | None:
    """Give the media type with its codecs, `video/mp4; codecs="avc1.640028, mp4a.40.2"`; None where
    a browser has no name for it.
    """
    wrapper = formats.WRAPPERS.get(str(facts.value("file.wrapper")))
    sound = formats.SOUND.get(str(facts.value("sound.codec")))
    picture = facts.value("picture.codec_string")
    if wrapper is None or not wrapper.media_type or picture is None:
        return None
    heard = sound is not None and sound.string and facts.value("sound.tracks")
    codecs = [picture, *([sound.string] if sound is not None and heard else [])]
    return f'{wrapper.media_type}; codecs="{", ".join(codecs)}"'


def plays_in_a_browser(facts: Facts) -> bool:
    """Say whether a browser can play a file as it is."""
    codec = formats.PICTURE.get(str(facts.value("picture.codec")))
    wrapper = formats.WRAPPERS.get(str(facts.value("file.wrapper")))
    if codec is None or wrapper is None:
        return False
    pixels = Pixels(str(facts.value("picture.chroma")), int(facts.value("picture.bit_depth") or 0))
    # Browsers play H.264 out of a MOV as well as out of an MP4.
    return pixels in codec.browser and wrapper.boxes and facts.value("motion.scan") == "progressive"


def snippet(name: str, facts: Facts, title: str = "") -> str:
    """Give the lines of HTML that play a file from the page's own folder: its type, its size as
    shown, its title.
    """
    size, shape = facts.value("picture.size"), facts.fraction("picture.display_aspect")
    height = size.height if size else 0
    width = round(height * shape) if shape else size.width if size else 0
    kind = media_type(facts)
    typed = f" type='{escape(kind, quote=False)}'" if kind else ""
    label = f' title="{escape(title)}"' if title else ""
    return (
        f'<video controls preload="metadata" width="{width}" height="{height}"{label}>\n'
        f'  <source src="{escape(name)}"{typed}>\n'
        f'  <p>Your browser does not play this film. <a href="{escape(name)}">Fetch the '
        f"file</a>.</p>\n"
        "</video>\n"
    )
