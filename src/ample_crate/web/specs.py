"""The register of specs."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]

from ..core.errors import NotFound
from ..store import library
from ..store.queries import keep_specs, specs_in_force
from . import views
from .house import give, house
from .schemas import RefusedSpec, RegisterRead, SpecPage, SpecPath, Specs

api = APIBlueprint("specs", __name__, url_prefix="/api/specs", abp_tags=[Tag(name="specs")])


@api.get("", summary="Every spec", responses={200: Specs})
def listed() -> Response:
    """List the specs in force."""
    with house().database.session() as session:
        return give(Specs(root=[views.spec(s) for s in specs_in_force(session)]))


def _refused(found: list[library.Refused]) -> list[RefusedSpec]:
    return [RefusedSpec(file=r.file, what=r.error.what, way_out=r.error.way_out) for r in found]


@api.post("/read", summary="Read the spec files again", responses={200: RegisterRead})
def read_again() -> Response:
    """Read the files that ship and the house's own; bad ones are named and left out."""
    specs, refused = library.register()
    with house().database.session() as session:
        keep_specs(session, library.recipients(), specs)
    return give(RegisterRead(specs=len(specs), refused=_refused(refused)))


@api.get("/refused", summary="Spec files that are not in the register, and why", responses={200: RegisterRead})
def refused() -> Response:
    """Say which spec files cannot be used."""
    specs, found = library.register()
    return give(RegisterRead(specs=len(specs), refused=_refused(found)))


@api.get("/<id>", summary="A spec to read", responses={200: SpecPage})
def page(path: SpecPath) -> Response:
    """Give a spec."""
    with house().database.session() as session:
        row = next((s for s in specs_in_force(session) if s.id == path.id), None)
        if row is None:
            raise NotFound(f"There is no spec '{path.id}'.", "Go back to the register.")
        return give(views.spec_page(row))
