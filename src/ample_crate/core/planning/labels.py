"""What a file says of itself: title, artist and comment, and its tracks' languages; the master's
own, unless the spec says otherwise.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..facts.properties import track_key
from ..formats.languages import numbered
from ..formats.wrapper import Wrapper
from .request import Request
from .streams import CopiedSound, MadeSound, Stream

ABOUT = ("title", "artist", "comment")
LANGUAGE = "sound.language"


def about(request: Request, wrapper: Wrapper) -> tuple[tuple[str, str], ...]:
    """Give what the file says of itself, as far as its wrapper has a place for it."""
    said = ((name, _settled(request, f"file.{name}")) for name in ABOUT if name in wrapper.titles)
    return tuple((name, text) for name, text in said if text)


def _settled(request: Request, key: str) -> str:
    value = request.values.get(key)
    unwanted = any(r.rule.present is False for r in request.spec.on(key))
    return "" if unwanted or value is None else str(value)


def in_languages(
    request: Request, wrapper: Wrapper, streams: Sequence[Stream]
) -> tuple[Stream, ...]:
    """Give streams whose sound tracks say their language, as far as the wrapper has a word for
    it.
    """
    return tuple(
        one.model_copy(update={"language": _language(request, wrapper, one)})
        if isinstance(one, MadeSound | CopiedSound)
        else one
        for one in streams
    )


def _language(request: Request, wrapper: Wrapper, sound: MadeSound | CopiedSound) -> str:
    taken = (sound.track,) if isinstance(sound, CopiedSound) else sound.tracks
    spoken = {str(request.all_sound.value(track_key(LANGUAGE, n)) or "") for n in taken}
    settled = _settled(request, LANGUAGE)
    asked = settled if _fixed(request) else ""
    # Tracks of several languages in one have none together.
    language = asked or (spoken.pop() if len(spoken) == 1 else "")
    if not wrapper.languages or not language:
        return ""
    return language if wrapper.languages == "all" or numbered(language) else ""


def _fixed(request: Request) -> bool:
    """Say whether the spec or a person names the language."""
    chosen = LANGUAGE in request.values.chosen
    return chosen or any(r.rule.is_ or r.rule.one_of for r in request.spec.on(LANGUAGE))
