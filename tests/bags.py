"""Sealed bags of small made-up files, and ways to forge them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import bagit

from ample_crate.handover import bag
from ample_crate.handover.signing import SigningKey

CRATE: dict[str, Any] = {
    "number": 7,
    "revision": 1,
    "title": "T",
    "recipient": "R",
    "spec": "s",
    "due": "d",
    "sealed_at": "n",
    "house": "H",
}


def item(folder: Path, data: bytes = b"frames" * 1000, name: str = "film.mov") -> bag.Item:
    """Make a file and its entry in a ledger."""
    file = folder / name
    file.write_bytes(data)
    entry = {
        "file": name,
        "sha256": bag.sha256(file),
        "bytes": len(data),
        "verdict": "meets",
        "rows": [],
        "steps": [],
        "cautions": [],
        "exceptions": [],
        "facts": {},
        "spec": {"id": "s", "version": 1, "title": "S", "source": ""},
    }
    return bag.Item((file,), bag.sha256(file), entry)


def sealed(folder: Path, data: bytes = b"frames" * 1000, **crate: Any) -> bag.Sealed:
    """Seal a crate of one film; the key lies in `folder/keys`."""
    of = CRATE | crate
    key = SigningKey.kept(folder / "keys")
    return bag.seal(
        folder, f"crate-{of['number']}-r{of['revision']}", [item(folder, data)], of, key
    )


def open_up(made: Path) -> None:
    """Make a sealed bag writable again."""
    for path in made.rglob("*"):
        if path.is_file():
            path.chmod(0o600)


def forge(made: Path, name: str, data: bytes) -> None:
    """Replace a file of a bag and compute its manifests anew, as one would who knows BagIt."""
    open_up(made)
    (made / "data" / name).write_bytes(data)
    bagit.Bag(str(made)).save(manifests=True)
