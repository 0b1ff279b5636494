"""Captions and subtitles: those that are text go along in the wrapper's own form, those that come
with the frames of the picture where each frame stays what it was.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from .. import formats
from ..facts import Facts
from ..facts.words import IN_PICTURE
from ..formats.codec import PictureMaking
from ..formats.languages import known_by, numbered
from ..formats.wrapper import Wrapper
from .notes import NOTHING, Notes, caution, step
from .request import Request
from .steps import PictureFormat
from .streams import AnyPicture, CopiedPicture, Stream, Text

KEY = "file.captions"
# Codecs of text, by the names that the codec library reads them by.
TEXT = frozenset({"mov_text", "subrip", "webvtt", "ass", "text"})


class Track(NamedTuple):
    """A track of captions: its place among those of its file, its codec and language."""

    number: int
    codec: str
    language: str


def tracks_of(master: Facts) -> list[Track]:
    """List the tracks of captions that a file's header names."""
    named = str(master.fact(KEY).declared or "")
    parts = [one.split(" ") for one in named.split(", ") if one]
    return [Track(n, one[0], one[1] if len(one) > 1 else "") for n, one in enumerate(parts, 1)]


def said(streams: Sequence[Stream], masters: Sequence[Facts]) -> str | None:
    """Name the captions of streams, as facts do."""
    texts = [f"{s.codec} {s.language}".strip() for s in streams if isinstance(s, Text)]
    kept = any(isinstance(s, AnyPicture) and _carried(s, masters) for s in streams)
    return ", ".join([*texts, *([IN_PICTURE] if kept else [])]) or None


def _carried(picture: AnyPicture, masters: Sequence[Facts]) -> bool:
    if isinstance(picture, CopiedPicture):
        return bool(masters) and in_picture(masters[picture.input])
    return picture.rated is not None and picture.rated.captions


def in_picture(master: Facts) -> bool:
    """Say whether captions come with the frames of a picture."""
    return IN_PICTURE in str(master.value(KEY) or "")


def unwanted(request: Request) -> bool:
    """Say whether the spec wants no captions."""
    return any(r.rule.present is False for r in request.spec.on(KEY))


def in_step(request: Request, f: PictureFormat, making: PictureMaking) -> bool:
    """Say whether captions that come with frames can go on with them: a codec carries them, and
    each frame stays one of the same time, of which two bytes a field were meant.
    """
    master = request.master
    if not in_picture(request.whole) or unwanted(request) or not making.captions:
        return False
    alike = (master.value("motion.scan") == "interlaced") == (f.fields is not None)
    return alike and master.fraction("motion.rate") == f.rate


def plan_captions(
    request: Request, wrapper: Wrapper, streams: Sequence[Stream]
) -> tuple[tuple[Text, ...], Notes]:
    """Say which captions go along.

    Args:
        request: what is planned.
        wrapper: what they go into.
        streams: the picture and sound that are made.
    """
    tracks = tracks_of(request.whole)
    picture = next((s for s in streams if isinstance(s, AnyPicture)), None)
    there = tracks or in_picture(request.whole)
    # Sound alone, and one image, have nothing that captions could go with.
    if not there or picture is None or wrapper.still:
        return (), NOTHING
    if unwanted(request):
        kept = _carried(picture, [request.whole])
        said_so = step("Captions left out", "The recipient wants none.", KEY)
        return (), NOTHING if kept else said_so
    beside = _beside(request, picture) if in_picture(request.whole) else NOTHING
    taken = [track for track in tracks if track.codec in TEXT and wrapper.text]
    texts = tuple(
        Text(number=one.number, codec=wrapper.text, language=_language(one, wrapper))
        for one in taken
    )
    notes = beside
    if texts:
        what = f"Captions as text: {said(texts, ())}"
        notes += step(what, f"{wrapper.label} has a place for them.", KEY)
    return texts, notes + _left_out([one for one in tracks if one not in taken], wrapper)


def _beside(request: Request, picture: AnyPicture) -> Notes:
    """Say what becomes of captions that come with the frames."""
    if _carried(picture, [request.whole]):
        return step(
            "Captions in the picture kept", "CEA-608/708 goes on with the frames it came with.", KEY
        )
    return caution(
        KEY,
        "The captions that come with the master's frames do not go along.",
        "They are two bytes a field: another codec has no place for them, and at another rate they "
        "fall out of step.",
        IN_PICTURE,
        "Send captions beside the file, or ask the recipient whether H.264, HEVC or MPEG-2 at the "
        "master's rate and scan will do.",
    )


def _language(track: Track, wrapper: Wrapper) -> str:
    known = known_by(track.language) or ""
    able = wrapper.languages == "all" or (wrapper.languages and numbered(known))
    return known if able else ""


def _left_out(tracks: Sequence[Track], wrapper: Wrapper) -> Notes:
    if not tracks:
        return NOTHING
    named = ", ".join(f"{one.codec} {one.language}".strip() for one in tracks)
    places = sorted(formats.label(w.key) for w in formats.WRAPPERS.values() if w.text)
    return caution(
        KEY,
        f"The master's captions do not go along: {named}.",
        f"{wrapper.label} has no place for text here."
        if not wrapper.text
        else "They are pictures or codes, which are not turned into text here.",
        named,
        f"Send them along beside the file, or ask the recipient whether {' or '.join(places)} will "
        f"do."
        if not wrapper.text
        else "Send them along beside the file.",
    )
