"""The tasks of a whole crate: sealing it, and handing it over."""

from __future__ import annotations

import logging
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import procrastinate
from sqlalchemy.orm import Session

from ..core.errors import Changed
from ..handover import bag, carriers, standins
from ..handover.signing import SigningKey
from ..media import benches
from ..store.database import AWAY, tell
from ..store.models import Crate, Receipt
from ..store.queries import get
from . import kept, logs, origins, sealing, status
from .jobs import change, queue_of, tools_of
from .sameness import require_same
from .tools import Tools

registry = procrastinate.Blueprint()
log = logging.getLogger(__name__)


@registry.task(name="seal", queue=queue_of("seal"), pass_context=True)
def seal(context: procrastinate.JobContext, id: int) -> None:
    """Seal a crate: copy, checksum, ledger, bag, signature."""
    tools = tools_of(context)
    db = tools.database
    try:
        with db.session() as session:
            crate = get(session, Crate, id)
            if crate.state != "sealing":
                return
            every = [row for one in crate.deliverables for row in origins.of(one)]
            ids = {row.id for row in every if Path(row.path).exists()}
        for master in ids:
            require_same(db, master)
        with db.session() as session:
            crate = get(session, Crate, id)
            sealing.require_sealable(crate)
            sealed_at = datetime.now(UTC)
            items, manifest = sealing.bag_contents(crate, sealed_at, tools.house)
            beside = {s.name: s.text for s in sealing.beside(crate, items)}
        sealed = _bagged(tools, items, manifest, beside)
        change(
            db,
            Crate,
            id,
            state="sealed",
            bag=str(sealed.path),
            bag_bytes=bag.size(sealed.path),
            sealed_at=sealed_at,
            bag_digest=sealed.digest,
            bag_files=sealed.files,
            error=None,
        )
    except AWAY:
        raise
    except Exception as error:
        change(db, Crate, id, state="open", error=logs.as_error(error))


def _bagged(
    tools: Tools, items: list[bag.Item], manifest: dict[str, Any], beside: dict[str, str]
) -> bag.Sealed:
    """Make the bag of a crate, or take the one that a lost worker made of the very same things.

    A bag of that name which was made from anything else belongs to no crate that is known here: it
    is set aside, whole.
    """
    name = f"crate-{manifest['number']}-r{manifest['revision']}"
    place, key = tools.folders.bags / name, SigningKey.kept(tools.folders.keys)
    if place.exists():
        if bag.made_here(place, bag.origin(items, manifest, beside), key):
            return bag.recorded(place)
        log.warning(
            "%s was made from other things; it is set aside as %s", name, bag.set_aside(place)
        )
    benches.room_for(
        tools.folders.bags,
        sum(file.stat().st_size for item in items for file in item.files if file.exists()),
    )
    return bag.seal(tools.folders.bags, name, items, manifest, key, beside)


@registry.task(name="hand_over", queue=queue_of("hand_over"), pass_context=True)
def hand_over(context: procrastinate.JobContext, id: int) -> None:
    """Carry a sealed crate to its recipient, and hold the receipt against what was sealed."""
    tools = tools_of(context)
    db = tools.database
    with db.session() as session:
        crate = get(session, Crate, id)
        if crate.state != "handing over" or crate.bag is None:
            return
        path, inbox, name = (
            Path(crate.bag),
            tools.folders.inboxes / crate.recipient.document["inbox"],
            crate.recipient.name,
        )
        recorded = crate.bag_digest, crate.bag_files
        carrier = status.spec_of(crate).delivery.carrier
    try:
        carry = carriers.named(carrier)
        digest, files = _proof(path.name, *recorded)
        benches.room_for(tools.folders.inboxes, bag.size(path))
        standins.introduce(inbox, SigningKey.kept(tools.folders.keys).public_pem)
        arrived = carry(path, inbox, digest, files)
        answer = standins.receive(arrived, name)
        wrong = carriers.disagreement(answer, files)
        db.lasting(lambda session: _keep_receipt(session, id, answer, bag.size(path), wrong))
    except AWAY:
        raise
    except Exception as error:
        change(db, Crate, id, state="sealed", error=logs.as_error(error))


def _proof(
    name: str, digest: str | None, files: dict[str, Any] | None
) -> tuple[str, dict[str, Any]]:
    """Give what a bag is held against.

    Raises:
        Changed: there is nothing.
    """
    if digest is None or files is None:
        raise Changed(
            f"The bag {name} was sealed before bags were recorded and signed, so that "
            f"nobody can prove it.",
            "Open a new revision of the crate and seal that.",
        )
    return digest, files


def _keep_receipt(
    session: Session, id: int, answer: dict[str, Any], sent: int, wrong: str | None
) -> None:
    """Keep what the recipient's side answered; a receipt for anything but what was sealed is no
    receipt.
    """
    crate = get(session, Crate, id, lock=True)
    accepted, error = bool(answer["accepted"]), None
    if wrong is not None:
        accepted = False
        answer = answer | {
            "accepted": False,
            "message": f"The receipt is not for what was sealed: {wrong}",
        }
        error = Changed(
            answer["message"], "Ask the recipient what they hold, then open a new revision."
        ).as_json()
    session.add(Receipt(crate=crate, accepted=accepted, sent_bytes=sent, document=answer))
    crate.state, crate.error = ("received" if accepted else "refused"), error
    kept.keep(session, "crate", id)
    tell(session, "crate", id)
