"""The file: its wrapper, index and name."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import cast

from .. import formats
from ..errors import BadValue
from ..formats.wrapper import Wrapper
from ..specs import naming
from .labels import about
from .notes import NOTHING, Notes, caution, step
from .plan import File
from .request import Request
from .start import plan_start
from .streams import AnyPicture, Stream


@dataclass(frozen=True)
class Named:
    """A file, and what is to be said of its wrapper, its start, and its name."""

    file: File
    wrapped: Notes
    named: Notes


def wrapper_asked(request: Request) -> str:
    """Settle the wrapper."""
    return cast(str, request.values.get("file.wrapper", formats.USUAL_WRAPPER))


def plan_file(request: Request, wrapper: Wrapper, streams: Sequence[Stream]) -> Named:
    """Plan the file that holds some streams.

    Raises:
        Impossible: its start cannot be told.
    """
    index = wrapper.index and bool(request.values.get("file.index_in_front", wrapper.browsers))
    name, named = _name(request, wrapper, streams)
    places = tuple(range(len(streams)))
    first = streams[0]
    rate = first.format.rate if isinstance(first, AnyPicture) else None
    start, started = plan_start(request, wrapper, rate)
    file = File(
        name=name,
        wrapper=wrapper.key,
        streams=places,
        index_in_front=index,
        timecode=start,
        about=about(request, wrapper),
    )
    wrapped = step(
        wrapper.label + (", index in front" if index else ""),
        "The wrapper the recipient asks for.",
        "file.wrapper",
        "file.index_in_front",
    )
    return Named(file, wrapped + started, named)


def _name(request: Request, wrapper: Wrapper, streams: Sequence[Stream]) -> tuple[str, Notes]:
    """Make the file name; where fields are missing, a caution that blocks names them all, and a
    stand-in name is given.
    """
    values = _fields(request.names, streams[0])
    row = formats.PICTURE.get(streams[0].codec)
    extension = wrapper.extension or (row.extension if row is not None else "")
    delivery = request.spec.delivery
    pattern = delivery.pattern()
    try:
        wanting = pattern.wanting(values)
        if wanting:
            raise BadValue(
                f"The name still needs: {'; '.join(wanting)}.",
                f"Fill in the fields of the name: the recipient's pattern is {delivery.name}.",
            )
        return pattern.name(values, extension), NOTHING
    except BadValue as error:
        stand_in = f"{naming.slug(request.names['master'])}{extension}"
        return naming.safe_name(stand_in), caution(
            "file.name",
            error.what,
            "The recipient sorts by the name; without it the file is not found.",
            delivery.name,
            error.way_out,
            blocks=True,
        )


def _fields(names: Mapping[str, str], first: Stream) -> dict[str, str]:
    """Give the fields of the name; those of a picture only where there is one."""
    fields = dict(names) | {"codec": first.codec}
    if isinstance(first, AnyPicture):
        rate = f"{float(first.format.rate):.2f}".rstrip("0").rstrip(".")
        fields |= {"size": str(first.format.size), "rate": rate}
    return fields
