"""The register of specs."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]

from ..core.errors import NotFound
from ..store.queries import specs_in_force
from . import views
from .house import give, house
from .schemas import SpecPage, SpecPath, Specs

api = APIBlueprint("specs", __name__, url_prefix="/api/specs", abp_tags=[Tag(name="specs")])


@api.get("", summary="Every spec", responses={200: Specs})
def listed() -> Response:
    """List the specs in force."""
    with house().database.session() as session:
        return give(Specs(root=[views.spec(s) for s in specs_in_force(session)]))


@api.get("/<id>", summary="A spec to read", responses={200: SpecPage})
def page(path: SpecPath) -> Response:
    """Give a spec."""
    with house().database.session() as session:
        row = next((s for s in specs_in_force(session) if s.id == path.id), None)
        if row is None:
            raise NotFound(f"There is no spec '{path.id}'.", "Go back to the register.")
        return give(views.spec_page(row))
