"""What a file says of itself: title, artist and comment, chapters, and its tracks' languages, names
and flags; the master's own, unless the spec says otherwise.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..facts.properties import track_key
from ..formats.languages import numbered
from ..formats.wrapper import ABOUT, Wrapper
from ..specs.rules import test
from .request import Request
from .streams import AnySound, CopiedSound, Stream

LANGUAGE, NAME, ENABLED = "sound.language", "sound.name", "sound.enabled"
CHAPTERS = "file.chapters"


def about(request: Request, wrapper: Wrapper) -> tuple[tuple[str, str], ...]:
    """Give what the file says of itself, as far as its wrapper has a place for it."""
    said = ((name, _settled(request, f"file.{name}")) for name in ABOUT if name in wrapper.titles)
    return tuple((name, text) for name, text in said if text)


def _settled(request: Request, key: str) -> str:
    value = request.values.get(key)
    unwanted = any(r.rule.present is False for r in request.spec.on(key))
    return "" if unwanted or value is None else str(value)


def chapters(request: Request, wrapper: Wrapper) -> int:
    """Give how many of the master's chapters go along at most; none where the spec wants none."""
    count = int(request.whole.value(CHAPTERS) or 0)
    tests = [test(r) for r in request.spec.on(CHAPTERS) if r.rule.same_as is None]
    unwanted = tests and all(t(0) for t in tests) and not all(t(count) for t in tests)
    return 0 if unwanted or not wrapper.chapters else count


def labelled(request: Request, wrapper: Wrapper, streams: Sequence[Stream]) -> tuple[Stream, ...]:
    """Give streams whose sound tracks say their language and name, and whether they are played
    unasked, as far as the wrapper has a word for it.
    """
    sounds = [one for one in streams if isinstance(one, AnySound)]
    flags = iter(_flags(request, sounds))
    return tuple(
        one.model_copy(
            update={
                "language": _language(request, wrapper, one),
                "name": _name(request, wrapper, one),
                "enabled": next(flags),
            }
        )
        if isinstance(one, AnySound)
        else one
        for one in streams
    )


def _taken(sound: AnySound) -> tuple[int, ...]:
    return (sound.track,) if isinstance(sound, CopiedSound) else sound.tracks


def _flags(request: Request, sounds: Sequence[AnySound]) -> list[bool]:
    """Say of each track whether it is played unasked: as the spec says, else as the master's that
    it is made of; the first, or all that sound together, where nobody says.
    """
    flags = [_flag(request, sound, n, len(sounds)) for n, sound in enumerate(sounds, 1)]
    # A file of which nothing sounds by itself is taken for a silent one.
    return flags if any(flags) else [n == 0 for n in range(len(flags))]


def _flag(request: Request, sound: AnySound, number: int, count: int) -> bool:
    rules = [r for key in (ENABLED, f"{ENABLED}@{number}") for r in request.spec.on(key)]
    asked = [flag for flag in (True, False) if all(test(r)(flag) for r in rules)]
    if rules and len(asked) == 1:
        return asked[0]
    taken = _taken(sound)
    said = request.all_sound.value(track_key(ENABLED, taken[0])) if len(taken) == 1 else None
    if said is not None and count > 1:
        return bool(said)
    return number == 1 or sound.format.channels == 1


def _name(request: Request, wrapper: Wrapper, sound: AnySound) -> str:
    taken = _taken(sound)
    own = request.all_sound.value(track_key(NAME, taken[0])) if len(taken) == 1 else None
    settled = _settled(request, NAME)
    unwanted = any(r.rule.present is False for r in request.spec.on(NAME))
    said = settled if unwanted or _fixed(request, NAME) else own
    return str(said or "") if wrapper.track_names else ""


def _language(request: Request, wrapper: Wrapper, sound: AnySound) -> str:
    taken = _taken(sound)
    spoken = {str(request.all_sound.value(track_key(LANGUAGE, n)) or "") for n in taken}
    settled = _settled(request, LANGUAGE)
    asked = settled if _fixed(request, LANGUAGE) else ""
    # Tracks of several languages in one have none together.
    language = asked or (spoken.pop() if len(spoken) == 1 else "")
    if not wrapper.languages or not language:
        return ""
    return language if wrapper.languages == "all" or numbered(language) else ""


def _fixed(request: Request, key: str) -> bool:
    """Say whether the spec or a person says it."""
    chosen = key in request.values.chosen
    return chosen or any(r.rule.is_ or r.rule.one_of for r in request.spec.on(key))
