"""Masters that are nearly the same as another one, through the API."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field

from ..core.facts.properties import lookup
from ..store import masters
from ..store.models import Master
from ..store.queries import get
from ..work import near as work
from ..work.near import Near
from . import views
from .master_schemas import MasterOut
from .schemas import Numbered, Out
from .services import give, services

api = APIBlueprint("near", __name__, url_prefix="/api/masters", abp_tags=[Tag(name="masters")])
PARTS = 20  # that are told


class OddPart(Out):
    """Frames that look otherwise in the other master: first and last of this one, and which of the
    other's lies over the first.
    """

    first: int
    last: int
    other: int


class NearOut(Out):
    """Another master that is nearly the same, and what tells the two apart."""

    master: MasterOut
    wrapper: str | None
    coded: bool = Field(description="whether its coded frames are the very same")
    shared: int = Field(description="frames that both have")
    same: int = Field(description="of those that look the same")
    before: int = Field(description="frames it has before what both have; below 0 that it lacks")
    after: int = Field(description="frames it has after what both have; below 0 that it lacks")
    parts: list[OddPart] = Field(description="what looks otherwise; the first of them")
    more: int = Field(description="parts that are not told")


class NearList(Out):
    """Masters that are nearly the same, those that differ least first; `looked` is false where a
    master was not looked at for this yet, or has no moving picture.
    """

    looked: bool
    wrapper: str | None
    near: list[NearOut]


@api.get("/<int:id>/near", summary="Masters that are nearly the same", responses={200: NearList})
def show(path: Numbered) -> Response:
    """Give the masters that are nearly the same as one, and what tells them apart."""
    with services().database.session() as session:
        row = get(session, Master, path.id)
        found = work.near(session, row)
        return give(
            NearList(
                looked=found is not None,
                wrapper=_wrapper(row),
                near=[_near(one) for one in found or ()],
            )
        )


def _wrapper(row: Master) -> str | None:
    said = masters.known(row).value("file.wrapper")
    return None if said is None else lookup("file.wrapper").kind.show(said)


def _near(one: Near) -> NearOut:
    found = one.found
    shown = found.parts[:PARTS]
    return NearOut(
        master=views.master(one.master),
        wrapper=_wrapper(one.master),
        coded=one.coded,
        shared=found.shared,
        same=found.same,
        before=found.before,
        after=found.after,
        parts=[OddPart(first=first, last=last, other=first + found.shift) for first, last in shown],
        more=len(found.parts) - len(shown),
    )
