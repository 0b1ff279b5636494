"""Recipients, and what is usual for each."""

from __future__ import annotations

from datetime import datetime

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from pydantic import Field, RootModel

from ..store.database import tell
from ..store.models import Recipient
from ..work import status, usual, zones
from . import views
from .crate_schemas import RecipientOut
from .schemas import In
from .services import give, services

api = APIBlueprint(
    "recipients", __name__, url_prefix="/api/recipients", abp_tags=[Tag(name="recipients")]
)


class RecipientPath(In):
    """A path to a recipient."""

    key: str = Field(max_length=100)


class RecipientPage(RecipientOut):
    """A recipient, what is usual for them, and when a crate that is made now would be due then."""

    usual: usual.UsualSettings | None
    due_at: datetime | None


class Zones(RootModel[list[str]]):
    """Time zones."""


class RecipientList(RootModel[list[RecipientPage]]):
    """Every recipient."""


@api.get("", summary="Every recipient", responses={200: RecipientList})
def listed() -> Response:
    """List the recipients, by name."""
    return _list()


def _list() -> Response:
    with services().database.session() as session:
        rows = [_page(row, kept) for row, kept in usual.recipients(session)]
    return give(RecipientList(root=rows))


def _page(row: Recipient, kept: usual.UsualSettings | None) -> RecipientPage:
    due = None if kept is None else kept.due.due(status.now())
    return RecipientPage(**views.recipient(row).model_dump(), usual=kept, due_at=due)


@api.get("/zones", summary="The time zones that may be chosen", responses={200: Zones})
def time_zones() -> Response:
    """List them by the names of the tz database."""
    return give(Zones(root=zones.every()))


@api.put(
    "/<key>/usual", summary="Keep what is usual for a recipient", responses={200: RecipientList}
)
def keep(path: RecipientPath, body: usual.UsualSettings) -> Response:
    """Keep the spec, the set of house choices and the rule by which crates are due."""
    with services().database.session() as session:
        usual.keep(session, path.key, body)
        tell(session, "recipient", 0)
    return _list()


@api.delete(
    "/<key>/usual", summary="Keep nothing as usual for a recipient", responses={200: RecipientList}
)
def forget(path: RecipientPath) -> Response:
    """Forget what was usual."""
    with services().database.session() as session:
        usual.forget(session, path.key)
        tell(session, "recipient", 0)
    return _list()
