"""The register of specs: read, written, compared."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import BadSpec, Refused
from ..core.specs import specfile
from ..core.specs.contradictions import repaired
from ..core.specs.differences import differences
from ..core.specs.drafting import proposals
from ..store import library, masters, models, specs
from ..store.database import tell
from ..store.queries import get
from . import spec_views
from .crate_schemas import Removed
from .schemas import Numbered
from .services import give, services
from .spec_schemas import (
    Checked,
    CheckIn,
    CompareQuery,
    Comparison,
    DifferenceOut,
    DocumentOut,
    FileQuery,
    RefusedSpec,
    RegisterRead,
    RepairIn,
    SaveIn,
    SpecList,
    SpecPage,
    SpecPath,
    Trial,
    VersionQuery,
    Vocabulary,
)

api = APIBlueprint("specs", __name__, url_prefix="/api/specs", abp_tags=[Tag(name="specs")])


@api.get("", summary="Every spec", responses={200: SpecList})
def listed() -> Response:
    """List all specs, in force or not."""
    with services().database.session() as session:
        return give(
            SpecList(
                root=spec_views.listed(specs.versions(session), specs.use(session, removed=False))
            )
        )


def _refused(found: list[library.Refused]) -> list[RefusedSpec]:
    return [RefusedSpec(file=r.file, what=r.error.what, way_out=r.error.way_out) for r in found]


@api.post("/read", summary="Read the spec files again", responses={200: RegisterRead})
def read_again() -> Response:
    """Read the files that ship and the house's own; bad ones are named and left out."""
    found, refused = library.register()
    with services().database.session() as session:
        specs.keep_files(session, library.recipients(), found)
        refused += specs.passed_over(session, found)
    return give(RegisterRead(specs=len(found), refused=_refused(refused)))


@api.get(
    "/refused",
    summary="Spec files that are not in the register, and why",
    responses={200: RegisterRead},
)
def refused() -> Response:
    """Say which spec files cannot be used, or count nowhere as they stand."""
    found, bad = library.register()
    with services().database.session() as session:
        bad += specs.passed_over(session, found)
    return give(RegisterRead(specs=len(found), refused=_refused(bad)))


@api.get("/vocabulary", summary="What an editor of specs offers", responses={200: Vocabulary})
def vocabulary() -> Response:
    """Give properties with their operators and usual values, rates, sizes, levels, recipients."""
    with services().database.session() as session:
        return give(
            spec_views.offered(
                list(session.scalars(select(models.Recipient).order_by(models.Recipient.name)))
            )
        )


@api.post("/check", summary="Read a spec that is being written", responses={200: Checked})
def check(body: CheckIn) -> Response:
    """Say what is wrong with a document or a file's text, or how it reads and where it contradicts
    itself.
    """
    with services().database.session() as session:
        known = {r.key: r for r in session.scalars(select(models.Recipient))}
        return give(spec_views.checked(body.document, body.text, body.name, known))


@api.post("/repair", summary="Make a proposed repair", responses={200: DocumentOut})
def repair(body: RepairIn) -> Response:
    """Give the document with the repair made; nothing is kept."""
    if not isinstance(body.document.get("requirements"), list):
        raise BadSpec(
            "The document is no spec: it has no requirements.",
            "Send the document that was checked.",
        )
    return give(DocumentOut(document=repaired(body.document, body.changes)))


@api.get("/compare", summary="Two specs side by side", responses={200: Comparison})
def compare(query: CompareQuery) -> Response:
    """Hold two specs, or two versions of one, against each other."""
    with services().database.session() as session:
        rows = (
            specs.get(session, query.left, query.left_version),
            specs.get(session, query.right, query.right_version),
        )
        left, right = (specs.read(row) for row in rows)
        made = [DifferenceOut.model_validate(d) for d in differences(left, right)]
        return give(
            Comparison(
                left=spec_views.reading(left, rows[0].recipient),
                right=spec_views.reading(right, rows[1].recipient),
                rows=made,
            )
        )


@api.get(
    "/from-master/<int:id>", summary="Rules that a master's facts suggest", responses={200: Trial}
)
def from_master(path: Numbered) -> Response:
    """Propose rules from a master, as from a file that a recipient accepted."""
    with services().database.session() as session:
        row = get(session, models.Master, path.id)
        if row.state != "ready":
            raise Refused(f"'{row.name}' is not measured yet.", "Wait until it is ready.")
        made = [spec_views.proposal(p) for p in proposals(masters.known(row), f"as in {row.name}")]
        return give(
            Trial(
                name=row.name,
                seconds=0.0,
                notes=list(row.notes),
                proposals=made,
                verdict=None,
                findings=[],
            )
        )


@api.post("", summary="Keep a spec", responses={200: SpecPage})
def save(body: SaveIn) -> Response:
    """Keep a spec: a draft is written over, anything else gets a new version beside it."""
    with services().database.session() as session:
        row = specs.save(session, body.document, body.base)
        tell(session, "spec", row.version)
        id, version = row.id, row.version
    return _page(id, version)


def _page(id: str, version: int | None) -> Response:
    with services().database.session() as session:
        row = specs.get(session, id, version)
        return give(
            spec_views.page(
                row,
                specs.versions(session, id),
                specs.use(session, id, removed=False),
                specs.crates_of(session, id),
            )
        )


def _row(session: Session, path: SpecPath, query: VersionQuery) -> models.SpecVersion:
    return specs.get(session, path.id, query.version)


@api.get("/<id>", summary="A spec to read", responses={200: SpecPage})
def page(path: SpecPath, query: VersionQuery) -> Response:
    """Give a version of a spec: the one asked for, else the one in force, else the newest."""
    return _page(path.id, query.version)


@api.delete("/<id>", summary="Remove an unused draft", responses={200: Removed})
def remove(path: SpecPath, query: VersionQuery) -> Response:
    """Remove a draft that no crate uses."""
    with services().database.session() as session:
        row = _row(session, path, query)
        specs.drop(session, row.id, row.version)
        tell(session, "spec", row.version)
        return give(Removed(id=row.version))


@api.get("/<id>/file", summary="A spec as a file")
def file(path: SpecPath, query: FileQuery) -> Response:
    """Give a version as YAML or JSON to keep or send."""
    with services().database.session() as session:
        row = _row(session, path, query)
        text = specfile.dump(specs.read(row), query.form)
        name = f"{row.id}-v{row.version}.{query.form}"
    kind = "application/json" if query.form == "json" else "application/yaml"
    return Response(
        text, mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
