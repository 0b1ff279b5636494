"""Receipts: what went where, and what came back."""

from __future__ import annotations

import io

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import select

from ..handover.signing import SigningKey
from ..store.models import Receipt
from . import views
from .crate_schemas import Receipts
from .services import give, services

api = APIBlueprint(
    "receipts", __name__, url_prefix="/api/receipts", abp_tags=[Tag(name="receipts")]
)


@api.get("/key", summary="The house's public key, with which its bags are verified")
def key() -> Response:
    """Give the public half of the house's Ed25519 key as PEM."""
    pem = SigningKey.kept(services().folders.keys).public_pem
    name = "house-public-key.pem"
    return send_file(
        io.BytesIO(pem), mimetype="application/x-pem-file", as_attachment=True, download_name=name
    )


@api.get("", summary="Every receipt, newest first", responses={200: Receipts})
def listed() -> Response:
    """List the receipts."""
    with services().database.session() as session:
        rows = session.scalars(select(Receipt).order_by(Receipt.id.desc()).limit(1000))
        return give(Receipts(root=[views.receipt(r, r.crate) for r in rows]))
