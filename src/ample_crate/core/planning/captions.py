"""Captions and subtitles: those that are text go along in the wrapper's own form, or in files of
their own; those that come with the frames of the picture where each frame stays what it was.
"""

from __future__ import annotations

from collections.abc import Sequence

from .. import formats
from ..facts import Facts
from ..facts.captions import KEY, Track, tracks_of
from ..facts.words import IN_PICTURE
from ..formats.codec import PictureMaking
from ..formats.languages import known_by, numbered
from ..formats.wrapper import Wrapper
from ..specs import naming
from ..specs.delivery import FORM_NAMES
from ..specs.spec import Spec
from .notes import NOTHING, Notes, caution, step
from .plan import CaptionFile
from .request import Request
from .steps import PictureFormat
from .streams import AnyPicture, Captions, CopiedCaptions, CopiedPicture, Stream, Text

# Codecs of text, by the names that the codec library reads them by.
TEXT = frozenset({"mov_text", "subrip", "webvtt", "ass", "text"})


# Forms of captions in a file of their own: the codec of each, and the file's ending.
FORMS = {"srt": ("subrip", ".srt"), "webvtt": ("webvtt", ".vtt")}


def as_text(master: Facts) -> list[Track]:
    """List the tracks of captions that are text."""
    return [track for track in tracks_of(master) if track.codec in TEXT]


def said(streams: Sequence[Stream], masters: Sequence[Facts]) -> str | None:
    """Name the captions of streams, as facts do."""
    texts = [f"{s.codec} {s.language}".strip() for s in streams if isinstance(s, Captions)]
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


def forms(request: Request) -> list[str]:
    """Give the forms in which captions lie beside the file: as the spec asks, else as chosen."""
    asked = asked_beside(request.spec)
    return asked or [form for form in (request.values.captions,) if form]


def asked_beside(spec: Spec) -> list[str]:
    """Give the forms in which a spec wants captions beside its files."""
    return [one.form for one in spec.delivery.sidecars if one.kind == "captions"]


def plan_beside(
    request: Request, wrapper: Wrapper, streams: Sequence[Stream], outcome: str
) -> tuple[tuple[CaptionFile, ...], Notes]:
    """Say which captions lie beside what is made, in files of their own.

    Args:
        request: what is planned.
        wrapper: what is made.
        streams: the picture and sound in it; to one image or sound alone they say nothing.
        outcome: the name of what is made.
    """
    tracks, wanted = as_text(request.whole), forms(request)
    if not wanted or wrapper.still or not any(isinstance(s, AnyPicture) for s in streams):
        return (), NOTHING
    names = " and ".join(FORM_NAMES[form] for form in wanted)
    if not tracks:
        return (), caution(
            KEY,
            f"The recipient wants captions as {names} beside the file, and the master has none as "
            f"text.",
            "Nothing is made up here.",
            "",
            "Hand in a master that has them, or send them by hand.",
        )
    stem, files = naming.stem(outcome), []
    for form in wanted:
        codec, ending = FORMS[form]
        for track, mark in zip(tracks, _marks(tracks), strict=True):
            text = Text(number=track.number, codec=codec, language=known_by(track.language) or "")
            files.append(CaptionFile(name=f"{stem}{mark}{ending}", text=text))
    what = f"Captions beside: {', '.join(file.name for file in files)}"
    return tuple(files), step(what, f"As {names}, in time with what is delivered.", KEY)


def _marks(tracks: Sequence[Track]) -> list[str]:
    """Tell the files of several tracks apart: by their languages, else by their numbers."""
    if len(tracks) == 1:
        return [""]
    languages = [known_by(track.language) or "" for track in tracks]
    return [
        f".{one}" if one and languages.count(one) == 1 else f".{track.number}"
        for one, track in zip(languages, tracks, strict=True)
    ]


def plan_captions(
    request: Request, wrapper: Wrapper, streams: Sequence[Stream]
) -> tuple[tuple[Captions, ...], Notes]:
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
    taken = {track: one for track in tracks if (one := _into(track, wrapper)) is not None}
    texts, notes = tuple(taken.values()), beside
    if texts:
        kinds = {isinstance(one, Text) for one in texts}
        form = " as text" if kinds == {True} else " as pictures" if kinds == {False} else ""
        what = f"Captions{form}: {said(texts, ())}"
        notes += step(what, f"{wrapper.label} has a place for them.", KEY)
    lying = as_text(request.whole) if forms(request) else []
    left = [one for one in tracks if one not in taken and one not in lying]
    return texts, notes + _left_out(left, wrapper)


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


def _taken_by(tracks: Sequence[Track]) -> str:
    """Name the wrapper to ask for that takes pictures, if one takes all of these."""
    codecs = {track.codec for track in tracks}
    place = next((w for w in formats.WRAPPERS.values() if codecs <= w.pictured), None)
    return "" if place is None else f", or ask the recipient whether {place.label} will do"


def _into(track: Track, wrapper: Wrapper) -> Captions | None:
    """Say as what a track of captions goes into a wrapper, if it does."""
    language = _language(track, wrapper)
    if track.codec in TEXT and wrapper.text:
        return Text(number=track.number, codec=wrapper.text, language=language)
    if track.codec in wrapper.pictured:
        return CopiedCaptions(number=track.number, codec=track.codec, language=language)
    return None


def _language(track: Track, wrapper: Wrapper) -> str:
    known = known_by(track.language) or ""
    able = wrapper.languages == "all" or (wrapper.languages and numbered(known))
    return known if able else ""


def _left_out(tracks: Sequence[Track], wrapper: Wrapper) -> Notes:
    if not tracks:
        return NOTHING
    named = ", ".join(f"{one.codec} {one.language}".strip() for one in tracks)
    text = any(one.codec in TEXT for one in tracks)
    places = sorted(formats.label(w.key) for w in formats.WRAPPERS.values() if w.text)
    kinds = " or ".join(FORM_NAMES[form] for form in FORMS)
    return caution(
        KEY,
        f"The master's captions do not go along: {named}.",
        f"{wrapper.label} has no place for text here."
        if text
        else "They are pictures or codes, which are not turned into text here, and have no place "
        f"in {wrapper.label} as they are.",
        named,
        f"Choose captions beside the file, as {kinds}, or ask the recipient whether "
        f"{' or '.join(places)} will do."
        if text
        else "Send them along beside the file" + _taken_by(tracks) + ".",
    )
