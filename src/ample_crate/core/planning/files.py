"""The file: its wrapper, index and name."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import cast

from .. import formats
from ..errors import BadValue, Impossible
from ..formats.wrapper import Wrapper
from ..specs import naming
from .notes import NOTHING, Notes, caution, step
from .plan import File
from .request import Request
from .steps import PictureFormat


@dataclass(frozen=True)
class Named:
    """A file, and what is to be said of its wrapper and of its name."""

    file: File
    wrapped: Notes
    named: Notes


def wrapper_asked(request: Request) -> str:
    """Settle the wrapper.

    Raises:
        Impossible: it has no place for picture.
    """
    key = cast(str, request.values.get("file.wrapper", formats.USUAL_WRAPPER))
    row = formats.WRAPPERS.get(key)
    if row is not None and not row.picture:
        raise Impossible(
            "The spec asks for sound alone, which cannot be made here.",
            "Hand over the sound as it is, if it meets the spec.",
        )
    return key


def plan_file(
    request: Request, wrapper: Wrapper, codec: str, f: PictureFormat, streams: int
) -> Named:
    """Plan the file that holds so many streams."""
    index = wrapper.index and bool(request.values.get("file.index_in_front", wrapper.browsers))
    name, named = _name(request, wrapper, codec, f)
    file = File(name=name, wrapper=wrapper.key, streams=tuple(range(streams)), index_in_front=index)
    wrapped = step(
        wrapper.label + (", index in front" if index else ""),
        "The wrapper the recipient asks for.",
        "file.wrapper",
        "file.index_in_front",
    )
    return Named(file, wrapped, named)


def _name(request: Request, wrapper: Wrapper, codec: str, f: PictureFormat) -> tuple[str, Notes]:
    """Make the file name; where fields are missing, a caution that blocks names them all, and a
    stand-in name is given.
    """
    values = _fields(request.names, codec, f)
    delivery = request.spec.delivery
    pattern = delivery.pattern()
    try:
        wanting = pattern.wanting(values)
        if wanting:
            raise BadValue(
                f"The name still needs: {'; '.join(wanting)}.",
                f"Fill in the fields of the name: the recipient's pattern is {delivery.name}.",
            )
        return pattern.name(values, wrapper.extension), NOTHING
    except BadValue as error:
        stand_in = f"{naming.slug(request.names['master'])}{wrapper.extension}"
        return naming.safe_name(stand_in), caution(
            "file.name",
            error.what,
            "The recipient sorts by the name; without it the file is not found.",
            delivery.name,
            error.way_out,
            blocks=True,
        )


def _fields(names: Mapping[str, str], codec: str, f: PictureFormat) -> dict[str, str]:
    rate = f"{float(f.rate):.2f}".rstrip("0").rstrip(".")
    return dict(names) | {"size": str(f.size), "codec": codec, "rate": rate}
