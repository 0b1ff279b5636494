"""Receipts: what went where, and what came back."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy import select

from ..store.models import Receipt
from . import views
from .house import give, house
from .schemas import Receipts

api = APIBlueprint("receipts", __name__, url_prefix="/api/receipts", abp_tags=[Tag(name="receipts")])


@api.get("", summary="Every receipt, newest first", responses={200: Receipts})
def listed() -> Response:
    """List the receipts."""
    with house().database.session() as session:
        rows = session.scalars(select(Receipt).order_by(Receipt.id.desc()).limit(1000))
        return give(Receipts(root=[views.receipt(r, r.crate) for r in rows]))
