"""The file: its wrapper, index and name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

from .. import formats
from ..errors import BadValue
from ..facts.sequences import NUMBERED, WHOLE
from ..formats.wrapper import Wrapper
from ..specs import naming
from . import programme
from .broadcast import plan_broadcast
from .labels import about, chapters
from .notes import NOTHING, Notes, question, step
from .plan import File, Images
from .request import Request
from .start import plan_start
from .streams import AnyPicture, AnySound, Stream

FIRST_IMAGE = "0000001"  # where nobody says (common practice)


@dataclass(frozen=True)
class Named:
    """The files, the folder that they lie in if they have one, and what is to be said of their
    wrapper, their start, and their name.
    """

    files: tuple[File, ...]
    folder: str
    wrapped: Notes
    named: Notes


def wrapper_asked(request: Request) -> str:
    """Settle the wrapper."""
    return cast(str, request.values.get("file.wrapper", formats.USUAL_WRAPPER))


def plan_files(request: Request, wrapper: Wrapper, streams: Sequence[Stream]) -> Named:
    """Plan the file that holds some streams, or those that hold one each.

    Raises:
        Impossible: its start cannot be told.
    """
    index = wrapper.index and bool(request.values.get("file.index_in_front", wrapper.browsers))
    name, named = _name(request, wrapper, streams)
    images = _images(name) if wrapper.numbered else None
    places = tuple(range(len(streams)))
    first = streams[0]
    rate = first.format.rate if isinstance(first, AnyPicture) else None
    start, started = plan_start(request, wrapper, rate)
    sounds = [one for one in streams if isinstance(one, AnySound)]
    broadcast, extended = plan_broadcast(request, wrapper, sounds, naming.stem(name))
    file = File(
        name=name,
        images=images,
        wrapper=wrapper.key,
        streams=places,
        index_in_front=index,
        timecode=start,
        about=about(request, wrapper),
        chapters=chapters(request, wrapper),
        broadcast=broadcast,
    )
    wrapped = step(
        wrapper.label + (", index in front" if index else ""),
        "The wrapper the recipient asks for.",
        "file.wrapper",
        "file.index_in_front",
    )
    files: tuple[File, ...] = (file,)
    folder = "" if images is None else naming.folder_of(images.head)
    if wrapper.parts:
        files, folder = _apart(file, wrapper, streams), naming.stem(name)
        wrapped += _together(files)
    return Named(files, folder, wrapped + started + extended, named)


def _apart(file: File, wrapper: Wrapper, streams: Sequence[Stream]) -> tuple[File, ...]:
    """Put each stream into a file of its own, named alike."""
    files: list[File] = []
    taken: set[str] = set()
    for place, stream in enumerate(streams):
        own = formats.WRAPPERS[wrapper.parts[stream.codec]]
        # A second sound track would have the name of the first.
        names = (f"{naming.stem(file.name)}{more}{own.extension}" for more in ("", f"_{place}"))
        name = next(name for name in names if name not in taken)
        taken.add(name)
        change = {"name": name, "wrapper": own.key, "streams": (place,)}
        files.append(file.model_copy(update=change))
    return tuple(files)


def _together(files: Sequence[File]) -> Notes:
    return step(
        " and ".join(file.name for file in files),
        "A file for each stream, in one folder; that they begin and end together is measured.",
        "file.wrapper",
        "sound.start_offset",
        "sound.length_difference",
    )


def _name(request: Request, wrapper: Wrapper, streams: Sequence[Stream]) -> tuple[str, Notes]:
    """Make the file name; where fields are missing, a caution that blocks names them all, and a
    stand-in name is given.
    """
    values = _fields(request, wrapper, streams[0])
    row = formats.PICTURE.get(streams[0].codec)
    extension = wrapper.extension or (row.extension if row is not None else "")
    delivery = request.spec.delivery
    pattern = delivery.pattern(numbered=wrapper.numbered)
    try:
        wanting = pattern.wanting(values)
        if wanting:
            raise BadValue(
                f"The name still needs: {'; '.join(wanting)}.",
                f"Fill in the fields of the name: the recipient's pattern is {delivery.name}.",
            )
        return pattern.name(values, extension), NOTHING
    except BadValue as error:
        number = f"_{FIRST_IMAGE}" if wrapper.numbered else ""
        stand_in = f"{naming.slug(request.names['master'])}{number}{extension}"
        return naming.safe_name(stand_in), question(
            "name.",
            "file.name",
            error.what,
            "The recipient sorts by the name; without it the file is not found.",
            delivery.name,
            error.way_out,
        )


def _numbered_on(request: Request) -> dict[str, str]:
    """Give the name and number of the first image that is delivered, of a master that is a
    sequence itself.
    """
    told = WHOLE.fullmatch(str(request.whole.value("file.name") or ""))
    master = programme.place_of(request.whole)
    if told is None or master is None or not master.numbered:
        return {}
    first = int(told["first"]) + request.first
    return {
        naming.FRAME: f"{first:0{len(told['first'])}d}",
        "master": naming.folder_of(told["head"]),
    }


def _images(name: str) -> Images:
    """Take the name of a sequence's first image apart."""
    parted = NUMBERED.fullmatch(name)
    assert parted is not None, name
    head, number, ending = parted.groups()
    return Images(head=head, ending=ending, first=int(number), digits=len(number))


def _fields(request: Request, wrapper: Wrapper, first: Stream) -> dict[str, str]:
    """Give the fields of the name; those of a picture, and of images, only where there are any."""
    fields = dict(request.names) | {"codec": first.codec}
    if wrapper.numbered:
        fields = (
            {naming.FRAME: FIRST_IMAGE} | fields | _numbered_on(request) | request.values.fields
        )
    if isinstance(first, AnyPicture):
        rate = f"{float(first.format.rate):.2f}".rstrip("0").rstrip(".")
        fields |= {"size": str(first.format.size), "rate": rate}
    return fields
