"""Stand-in for a recipient's own intake: it verifies what arrived by itself and answers with a
receipt.

It knows nothing of the sender's database: only the bytes in its folder.
"""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from . import report
from .bag import problem, recorded, signature_problem

SENDER_KEY = "sender-key.pem"


def introduce(inbox: Path, public_pem: bytes) -> None:
    """Give a recipient the sender's public key, once: a key that is there is never replaced."""
    place = inbox / SENDER_KEY
    if inbox.is_file() or place.exists():
        return
    inbox.mkdir(parents=True, exist_ok=True)
    report.write_whole(place, public_pem.decode())


def receive(bag: Path, recipient: str) -> dict[str, Any]:
    """Verify an arrived bag and answer: {recipient, bag, received_at, accepted, message, files}.

    One who was given the sender's public key takes nothing that was not signed with it.
    The receipt is also laid beside the bag as `NAME.receipt.json`.
    """
    wrong = problem(bag) or _unsigned(bag)
    files: list[dict[str, Any]] = []
    if wrong is None:
        files = [{"name": name, **told} for name, told in recorded(bag).files.items()]
    good = "All files arrived whole; every checksum agrees."
    if (bag.parent / SENDER_KEY).exists():
        good = "All files arrived whole; every checksum agrees, and the signature is the sender's."
    answer = {
        "recipient": recipient,
        "bag": bag.name,
        "received_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "accepted": wrong is None,
        "message": good if wrong is None else f"The bag does not verify: {wrong}",
        "files": files,
    }
    report.write_whole(bag.with_name(f"{bag.name}.receipt.json"), json.dumps(answer, indent=2))
    return answer


def _unsigned(bag: Path) -> str | None:
    """Say what is wrong with a bag's signature; nothing where no key was ever given."""
    key = bag.parent / SENDER_KEY
    return signature_problem(bag, key.read_bytes()) if key.exists() else None
